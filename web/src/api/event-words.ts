import type { Schema } from "./client";

/** What was booked, in a table and, shorter, as a flag in a chart. */
export const EVENT_WORDS: Record<Schema["RunEventKind"], { row: string; flag: string }> = {
  filled: { row: "filled and vented", flag: "filled" },
  step_reached: { row: "step reached", flag: "step" },
  pump_off: { row: "pump off and disconnected", flag: "pump off" },
  look_done: { row: "look done", flag: "look done" },
  leak_seen: { row: "leak seen", flag: "leak seen" },
  repump: { row: "repumped", flag: "repump" },
  bleed: { row: "bled", flag: "bleed" },
  hold_ended: { row: "hold ended", flag: "hold ended" },
  released: { row: "pressure released", flag: "released" },
  vent_opened: { row: "high vent opened", flag: "vent open" },
  drained: { row: "drained", flag: "drained" },
  noted: { row: "noted", flag: "noted" },
};
