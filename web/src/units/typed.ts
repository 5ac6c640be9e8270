import table from "./shown.gen.json";
import type { Dimension, Units } from "./shown";

interface Word {
  word: string;
  dimension: Dimension;
  factor: number;
  offset: number;
}
const WORDS = table.words as Word[];

/** What was typed: an amount in SI, nothing, or something that is no amount, with a sentence. */
export type Typed = { si: number; why: "" } | { si: null; why: "" } | { si: undefined; why: string };

const PLAIN = /^([+−-]?[\d.,\s\u00a0]*\d(?:[.,]\d*)?(?:[eE][+-]?\d+)?|[+−-]?[.,]\d+)\s*(.*)$/s;

function plain(word: string): string {
  return word
    .toLowerCase()
    .replace(/[°º\s\u00a0._]/g, "")
    .replaceAll("²", "2")
    .replaceAll("³", "3");
}

/** A figure as people write it, with a point or a comma; none where it is none. */
export function number(text: string): number | undefined {
  const clean = text.replaceAll("−", "-").replace(/[\s\u00a0]/g, "");
  if (!/^[+-]?(\d+([.,]\d*)?|[.,]\d+)([eE][+-]?\d+)?$/.test(clean)) return undefined;
  const value = Number(clean.replace(",", "."));
  return Number.isFinite(value) ? value : undefined;
}

/** Dimensions whose words go for another: a pressure difference is typed as a pressure. */
const AS: Partial<Record<Dimension, Dimension>> = {
  pressure_difference_pa: "gauge_pressure_pa",
  stress_pa: "gauge_pressure_pa",
  normal_leak_m3_per_s: "leak_m3_per_s",
};

/** Words for a dimension, for a sentence that says what is understood. */
const UNDERSTOOD: Partial<Record<Dimension, string>> = {
  gauge_pressure_pa: "bar, kPa, MPa, psi or kg/cm²",
  length_m: "m, cm, mm, in or ft",
  temperature_c: "°C, °F or K",
  temperature_difference_k: "K, °C or °F",
  volume_m3: "m³, L, mL, gal (US), imp gal or ft³",
  volume_flow_m3_per_s: "m³/h, L/s, L/min, gal/min (US) or imp gal/min",
  leak_m3_per_s: "L/h, mL/h, L/min, gal/h (US) or imp gal/h",
  time_s: "s, min or h",
  density_kg_m3: "kg/m³ or lb/ft³",
};

/** Reads an amount: "200 F", "84 in", "0.9 L", "10 psi". A bare figure is in the unit that stands beside its field. */
export function typed(text: string, dimension: Dimension, bare: { factor: number; offset: number }): Typed {
  const trimmed = text.trim();
  if (trimmed === "") return { si: null, why: "" };
  const match = PLAIN.exec(trimmed);
  const value = match?.[1] === undefined ? undefined : number(match[1]);
  if (value === undefined) return { si: undefined, why: `"${trimmed}" is no figure: write it as 12.5, with its unit where that is another.` };
  const unit = match?.[2]?.trim() ?? "";
  if (unit === "") return { si: Number(((value - bare.offset) / bare.factor).toPrecision(15)), why: "" };
  const of = AS[dimension] ?? dimension;
  const word = WORDS.find((w) => w.dimension === of && w.word === plain(unit));
  if (!word) return { si: undefined, why: `"${unit}" is no unit for this: use ${UNDERSTOOD[of] ?? "a plain figure"}.` };
  return { si: value * word.factor + word.offset, why: "" };
}

/** True where a text names a unit of a dimension. */
export function names(text: string, dimension: Dimension): boolean {
  const unit = PLAIN.exec(text.trim())?.[2]?.trim() ?? "";
  return unit !== "" && WORDS.some((w) => w.dimension === dimension && w.word === plain(unit));
}

export type { Units };
