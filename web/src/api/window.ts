import type { Derived } from "../api/client";

/** Why no reading of the gauge suits every part; empty where one does. A window that the gauge cannot hold is as empty as one without width. */
export function emptyWindow(derived: Derived): string {
  return derived.conflict?.sentence ?? derived.day?.conflicts.find((c) => c.about === "gauge")?.sentence ?? "";
}
