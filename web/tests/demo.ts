import type { Pack, Schema } from "../src/api/client";
import { setWords } from "../src/api/words";
import demo from "./demo.json";

// answers of the server to the demo's people, kept as they came
const all = demo as unknown as Record<string, unknown>;
// what it calls things is said before any screen is drawn
export const words = () => all.words as Schema["Words"];
setWords(words());
/** Ready to be released: a top run and a flange. */
export const ready = () => structuredClone(all["CW-003"]) as Pack;
/** No gauge reading suits it. */
export const conflict = () => structuredClone(all["BR-002"]) as Pack;
/** Under pressure. */
export const running = () => structuredClone(all["UW-005"]) as Pack;
/** The chart of that run. */
export const hold = () => structuredClone(all.hold) as Schema["HoldView"];
