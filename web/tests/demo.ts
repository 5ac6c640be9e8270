import type { Pack, Schema } from "../src/api/client";
import { setWords } from "../src/api/words";
import demo from "./demo.json";

// answers of the server to the demo's people, kept as they came
const all = demo as unknown as Record<string, unknown>;
// what it calls things is said before any screen is drawn
export const words = () => all.words as Schema["Words"];
setWords(words());
const UNITS = { pressure: "bar", temperature: "celsius", length: "metre", volume: "litre" } as const;
/** A test as it came, in the project of whoever looks at it. */
const test = (number: string) => ({ ...(structuredClone(all[number]) as Pack), project: { id: "p", name: "Power house", zone: "UTC", units: UNITS } });
/** Ready to be released: a top run and a flange. */
export const ready = () => test("CW-003");
/** No gauge reading suits it. */
export const conflict = () => test("BR-002");
/** Under pressure. */
export const running = () => test("UW-005");
/** The chart of that run. */
export const hold = () => structuredClone(all.hold) as Schema["HoldView"];
