import type { Pack, Schema } from "../../api/client";
import type { Figures } from "../../units";
import { counted, lowers } from "./stage";

/** A line of the sheet for the shed, printed and typed in alike. */
export interface SheetRow {
  key: string;
  words: string;
  /** True where the gauge is read. */
  reads: boolean;
  /** What is booked; none where only the gauge is read. */
  kind?: Schema["EventKind"] | "begun";
}

/** Readings of the hold that a sheet has room for; of a rule that counts a loss so many that they tell of one. */
const READ_IN_HOLD = 4;
const READ_TO_COUNT = 10;

/** The sheet of a test, in the order in which it is done. */
export function rowsOf(pack: Pack, show: Figures): SheetRow[] {
  return [
    { key: "begun", words: "Begun: closed, nobody near", reads: false, kind: "begun" },
    { key: "filled", words: "Full, vents shut, nothing drips", reads: false, kind: "filled" },
    ...pack.schedule.map((s): SheetRow => ({ key: `step ${s.number}`, words: `Pump stopped at ${show.p(s.target_pa, "up")}`, reads: true, kind: "step_reached" })),
    ...(lowers(pack) ? [{ key: "before", words: "Pumped up to it again, just before it is lowered", reads: true }] : []),
    { key: "off", words: lowers(pack) ? "Lowered, pump shut off: the hold begins" : "Pump shut off: the hold begins", reads: true, kind: "pump_off" },
    ...Array.from(
      { length: counted(pack) ? READ_TO_COUNT : READ_IN_HOLD },
      (_, i): SheetRow => ({ key: `read ${i + 1}`, words: `Read in the hold, ${i + 1}`, reads: true }),
    ),
    { key: "looked", words: "Looked at every place: all dry", reads: false, kind: "look_done" },
    { key: "ended", words: "Hold over", reads: true, kind: "hold_ended" },
    { key: "zero", words: "At zero", reads: true, kind: "released" },
    { key: "vent", words: "High vent open", reads: false, kind: "vent_opened" },
    { key: "drained", words: "Drained", reads: false, kind: "drained" },
  ];
}

/** What one row of a filled sheet says. */
export interface Filled {
  time: string;
  shows: string;
  /** How warm it was, where there is a thermometer. */
  warm?: string;
}

/** What stands against a filled sheet before it is sent, by row: times that are missing, cannot be read, or run backwards. */
export function objectionsTo(
  rows: readonly SheetRow[],
  filled: Readonly<Record<string, Filled>>,
  read: (time: string) => { at: string | null; why: string },
): Map<string, string> {
  const wrong = new Map<string, string>();
  let before = Number.NEGATIVE_INFINITY;
  for (const row of rows) {
    const { time, shows, warm = "" } = filled[row.key] ?? { time: "", shows: "" };
    if (!time.trim() && !shows.trim() && !warm.trim()) continue;
    if (!time.trim()) {
      wrong.set(row.key, "Write when it was read.");
      continue;
    }
    const { at, why } = read(time);
    if (!at) wrong.set(row.key, why);
    else if (Date.parse(at) < before) wrong.set(row.key, "This is before the line above it: check both times.");
    else before = Date.parse(at);
    if (row.kind === "released" && !shows.trim()) wrong.set(row.key, "Write what the gauge showed: zero is read.");
  }
  return wrong;
}
