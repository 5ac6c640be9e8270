import type { Schema } from "../api/client";

export type Units = Schema["Units"];

/** Sets of units that a site or a project is offered, each with its key and its words. */
export const SETS: readonly (readonly [string, string, Units])[] = [
  ["metric", "bar, °C, metres, litres", { pressure: "bar", temperature: "celsius", length: "metre", volume: "litre" }],
  ["kpa", "kPa, °C, metres, litres", { pressure: "kpa", temperature: "celsius", length: "metre", volume: "litre" }],
  ["us", "psi, °F, feet, US gallons", { pressure: "psi", temperature: "fahrenheit", length: "foot", volume: "us_gallon" }],
  ["imperial", "psi, °C, feet, imperial gallons", { pressure: "psi", temperature: "celsius", length: "foot", volume: "imperial_gallon" }],
];

/** Key of the set that these units are; "own" where they are none of those offered. */
export const keyOf = (units: Units) => SETS.find(([, , set]) => JSON.stringify(set) === JSON.stringify(units))?.[0] ?? "own";

/** The units of a key. */
export const unitsOf = (key: string): Units | undefined => SETS.find(([own]) => own === key)?.[2];

/** What is offered, with the units in hand where they are none of it. */
export const offered = (key: string): (readonly [string, string])[] => [
  ...SETS.map(([own, words]) => [own, words] as const),
  ...(key === "own" ? [["own", "as they are"] as const] : []),
];
