import { z } from "../ui/schema";
import { word } from "../api/words";
import type { Schema } from "../api/client";
import { type Figures, inField, inUnit, toPa, typed, type Unit } from "../units";

type Basis = Schema["Basis"];
export type BasisInfo = Schema["BasisInfo"];

/** Pressures that a basis may ask for: what it asks, and its field. */
export const PRESSURES = [
  ["design_pressure", "design_pressure_pa"],
  ["working_pressure", "working_pressure_pa"],
  ["working_pressure_high", "working_high_pa"],
  ["allowable_pressure", "allowable_pressure_pa"],
  ["plate_pressure", "plate_pressure_pa"],
  ["external_difference", "external_difference_pa"],
  ["agreed_pressure", "agreed_pressure_pa"],
] as const;
export type PressureField = (typeof PRESSURES)[number][1];

const isNumber = (t: string) => t.trim() !== "" && Number.isFinite(Number(t.replace(",", ".")));
const pressure = (ask: (typeof PRESSURES)[number][0]) =>
  z
    .string()
    .refine((t) => pressureOf(t, "bar") !== undefined, { error: () => `${word("asked", ask)}: a figure, for example 12.5, with its unit where that is another.` });
/** A bare figure is in minutes. */
export const MINUTES = { factor: 1 / 60, offset: 0 };
/** A bare figure is in hours. */
const HOURS = { factor: 1 / 3600, offset: 0 };
const time = (words: string, bare: typeof MINUTES) => z.string().refine((t) => typed(t, "time_s", bare).si !== undefined, words);

export const BasisForm = z.object({
  id: z.string(),
  medium: z.enum(["liquid", "nitrogen", "air"]),
  design_pressure_pa: pressure("design_pressure"),
  working_pressure_pa: pressure("working_pressure"),
  working_high_pa: pressure("working_pressure_high"),
  allowable_pressure_pa: pressure("allowable_pressure"),
  plate_pressure_pa: pressure("plate_pressure"),
  external_difference_pa: pressure("external_difference"),
  agreed_pressure_pa: pressure("agreed_pressure"),
  temperature: z.string().refine((t) => typed(t, "temperature_c", { factor: 1, offset: 0 }).si !== undefined, "The temperature is a figure, for example 38."),
  agreed_hold: time("The hold is a figure, for example 60 or 1 h.", MINUTES),
  owners_fall: z.string().refine((t) => t.trim() === "" || isNumber(t), "The fall is a number of per cent."),
  owners_fall_hours: time("The time is a figure, for example 2 or 90 min.", HOURS),
  over_test_reason: z.string(),
  on_top_of: z.string(),
  bolting: z.string(),
  choices: z.record(z.string(), z.string()),
});
export type BasisValues = z.infer<typeof BasisForm>;

const read = (t: string) => Number(t.replace(",", "."));

/** A typed pressure, Pa: bare in the unit beside its field. */
function pressureOf(text: string, unit: Unit): number | null | undefined {
  return typed(text, "gauge_pressure_pa", { factor: 1 / toPa(1, unit), offset: 0 }).si;
}

/** What stands in the form for a basis. */
export function basisValues(b: Basis, show: Figures): BasisValues {
  const shown = (pa: number | null | undefined) => (pa == null ? "" : String(Number(inUnit(pa, show.unit).toPrecision(7))));
  return {
    id: b.id,
    medium: b.medium ?? "liquid",
    design_pressure_pa: shown(b.design_pressure_pa),
    working_pressure_pa: shown(b.working_pressure_pa),
    working_high_pa: shown(b.working_high_pa),
    allowable_pressure_pa: shown(b.allowable_pressure_pa),
    plate_pressure_pa: shown(b.plate_pressure_pa),
    external_difference_pa: shown(b.external_difference_pa),
    agreed_pressure_pa: shown(b.agreed_pressure_pa),
    temperature: inField(b.design_temperature_c, show.unitFor("temperature_c")),
    agreed_hold: b.agreed_hold_s == null ? "" : String(b.agreed_hold_s / 60),
    owners_fall: b.owners_fall ? String(Number((b.owners_fall.share * 100).toPrecision(6))) : "",
    owners_fall_hours: b.owners_fall ? String(Number((b.owners_fall.within_s / 3600).toPrecision(6))) : "",
    over_test_reason: b.over_test_reason ?? "",
    on_top_of: b.on_top_of ?? "",
    bolting: b.bolting ?? "",
    choices: { ...(b.choices ?? {}) },
  };
}

/** The basis that the form holds: only what the basis asks or knows of is kept, an empty field is absent. */
export function basisOf(v: BasisValues, show: Figures, info: BasisInfo | undefined, beneath: BasisInfo | undefined): Basis {
  const asked = asksOf(info, beneath);
  const basis: Record<string, unknown> = { id: v.id, medium: v.medium };
  for (const [ask, field] of PRESSURES) {
    if (v[field].trim() !== "" && (!info || asked.has(ask) || ask === "agreed_pressure")) basis[field] = pressureOf(v[field], show.unit);
  }
  if (v.temperature.trim() !== "" && (!info || asked.has("design_temperature")))
    basis.design_temperature_c = typed(v.temperature, "temperature_c", show.unitFor("temperature_c")).si;
  if (v.agreed_hold.trim() !== "") basis.agreed_hold_s = typed(v.agreed_hold, "time_s", MINUTES).si;
  if (v.owners_fall.trim() !== "" || v.owners_fall_hours.trim() !== "")
    basis.owners_fall = { share: read(v.owners_fall || "0") / 100, within_s: typed(v.owners_fall_hours, "time_s", HOURS).si ?? 0 };
  for (const key of ["over_test_reason", "on_top_of", "bolting"] as const) if (v[key].trim() !== "") basis[key] = v[key].trim();
  const known = new Set((beneath ?? info)?.choices.map((c) => c.key) ?? Object.keys(v.choices));
  const choices = Object.fromEntries(Object.entries(v.choices).filter(([key, answer]) => known.has(key) && answer !== ""));
  if (Object.keys(choices).length) basis.choices = choices;
  return basis as Basis;
}

/** What must be given: by the basis, and by the code beneath an owner's standard. */
export function asksOf(info: BasisInfo | undefined, beneath: BasisInfo | undefined): Set<Schema["Asked"]> {
  return new Set([...(info?.asks ?? []), ...(beneath?.asks ?? [])]);
}

/** What the basis asks and nobody gave: field and label. */
export function missingOf(v: BasisValues, info: BasisInfo | undefined, bases: readonly BasisInfo[]): (readonly [PressureField | "temperature", string])[] {
  const beneath = info?.on_top ? bases.find((b) => b.id === v.on_top_of) : undefined;
  const asked = asksOf(info, beneath);
  const pressures = PRESSURES.filter(([ask, field]) => asked.has(ask) && ask !== "agreed_pressure" && v[field].trim() === "").map(
    ([ask, field]) => [field, word("asked", ask)] as const,
  );
  return asked.has("design_temperature") && v.temperature.trim() === "" ? [...pressures, ["temperature", word("asked", "design_temperature")] as const] : pressures;
}
