import type { Schema } from "../api/client";
import table from "./shown.gen.json";

/** How a figure is shown. Unit, digits and rounding are those of the core: its table is read here, and one set of cases holds both to it. */
export type Unit = Schema["PressureUnit"];
export type Units = Required<Schema["Units"]>;
export type Dimension = Schema["Dimension"];
export type Toward = Schema["Toward"];
/** A gauge as far as its figures are shown. */
export interface Dial {
  unit: Unit;
  division_pa: number;
}

interface Scale {
  below: number | null;
  factor: number;
  offset: number;
  symbol: string;
  said: number;
  exact: number;
}
interface Row {
  dimension: Dimension;
  by: "temperature" | "length" | "volume" | null;
  unit: string | null;
  scales: Scale[];
}
const PRESSURES = table.pressures as Record<Unit, { pa: number; symbol: string; decimals: number }>;
const ROWS = table.scales as Row[];

export const UNITS = Object.keys(PRESSURES) as Unit[];
export const SYMBOL = Object.fromEntries(UNITS.map((u) => [u, PRESSURES[u].symbol])) as Record<Unit, string>;

/** Pa in a unit. */
export function inUnit(pa: number, unit: Unit): number {
  return pa / PRESSURES[unit].pa;
}
/** A figure of a unit in Pa. */
export function toPa(value: number, unit: Unit): number {
  return value * PRESSURES[unit].pa;
}

function up(value: number, step: number): number {
  return Math.ceil(value / step - 1e-6) * step;
}
function down(value: number, step: number): number {
  return Math.floor(value / step + 1e-6) * step;
}
function rounded(value: number, step: number, toward: Toward): number {
  return toward === "up" ? up(value, step) : toward === "down" ? down(value, step) : value;
}
function minus(text: string): string {
  return text.replace("-", "−");
}
/** To the nearest, a half away from zero, as the core has it; no "−0". */
function fixed(value: number, decimals: number): string {
  const text = Math.abs(value).toFixed(decimals);
  return minus(value < 0 && Number(text) !== 0 ? `-${text}` : text);
}

/** Decimals of a division that is a whole number of them: 0.05 → 2. */
function decimalsOf(division: number): number {
  for (let d = 0; d <= 6; d++) {
    const scaled = division * 10 ** d;
    if (Math.abs(scaled - Math.round(scaled)) < 1e-6 * Math.max(Math.abs(scaled), 1) && Math.round(scaled) >= 1) return d;
  }
  return 6;
}
/** The first decimals that are not coarser than a division. */
function decimalsWithin(division: number): number {
  for (let d = 0; d <= 6; d++) if (10 ** -d <= division * (1 + 1e-9)) return d;
  return 6;
}

/** The step to which a limit at a gauge is shown, Pa. */
export function fineStep(dial: Dial): number {
  const fine = dial.unit === "psi" ? 0.1 * PRESSURES.psi.pa : dial.unit === "kg_cm2" ? 0.01 * PRESSURES.kg_cm2.pa : 1000;
  return Math.max(dial.division_pa / 10, Math.min(dial.division_pa, fine));
}

function readToHalf(pa: number, dial: Dial): boolean {
  const halves = (2 * pa) / dial.division_pa;
  return Math.abs(halves - Math.round(halves)) < 1e-6 && Math.round(halves) % 2 !== 0;
}

/** The step of a figure at a gauge and its decimals, in a unit. */
function stepAt(pa: number, dial: Dial, unit: Unit, toward: Toward): [step: number, decimals: number] {
  const asPa = toward === "down" ? fineStep(dial) : toward === "nearest" && readToHalf(pa, dial) ? dial.division_pa / 2 : dial.division_pa;
  const step = inUnit(asPa, unit);
  if (unit === dial.unit) return [step, decimalsOf(step)];
  const decimals = decimalsWithin(step);
  return [10 ** -decimals, decimals];
}

/** A pressure that is read at a gauge, without its unit. */
export function atGauge(pa: number, dial: Dial, unit: Unit, toward: Toward = "nearest"): string {
  const [step, decimals] = stepAt(pa, dial, unit, toward);
  return fixed(rounded(inUnit(pa, unit), step, toward), decimals);
}

/** A pressure that no gauge shows, without its unit. */
export function free(pa: number, unit: Unit, toward: Toward = "nearest"): string {
  const { decimals } = PRESSURES[unit];
  return fixed(rounded(inUnit(pa, unit), 10 ** -decimals, toward), decimals);
}

/** So many figures, no zeros at the end. */
export function significant(value: number, figures: number, toward: Toward = "nearest"): string {
  if (value === 0 || !Number.isFinite(value)) return "0";
  const exponent = Math.floor(Math.log10(Math.abs(value) * (1 + 1e-12))) + 1 - figures;
  const step = 10 ** exponent;
  const steps = value / step;
  const whole = toward === "up" ? Math.ceil(steps - 1e-6) : toward === "down" ? Math.floor(steps + 1e-6) : Math.sign(steps) * Math.round(Math.abs(steps));
  const decimals = Math.max(0, -exponent);
  const text = fixed(whole * step, decimals);
  return decimals > 0 ? text.replace(/\.?0+$/, "") : text;
}

/** The units of a dimension in a person's set, for small amounts first. */
export function scales(dimension: Dimension, units: Units): readonly Scale[] {
  const row = ROWS.find((r) => r.dimension === dimension && (r.by === null || units[r.by] === r.unit));
  return row?.scales ?? [];
}

/** An amount with its unit, never parted by a line break. */
export function amount(value: number, dimension: Dimension, units: Units, how: "said" | "exact" = "said", toward: Toward = "nearest"): string {
  if (dimension === "gauge_pressure_pa" || dimension === "pressure_difference_pa" || dimension === "stress_pa") {
    return `${free(value, units.pressure, toward)}\u00a0${SYMBOL[units.pressure]}`;
  }
  if (dimension === "pressure_per_kelvin_pa_per_k") {
    const [per, word] = units.temperature === "fahrenheit" ? ([1 / 1.8, "°F"] as const) : ([1, "K"] as const);
    return `${free(value * per, units.pressure, toward)}\u00a0${SYMBOL[units.pressure]} per ${word}`;
  }
  const scale = scaleOf(value, dimension, units);
  const figure = significant(value * scale.factor + scale.offset, scale[how], toward);
  return scale.symbol ? `${figure}\u00a0${scale.symbol}` : figure;
}

/** The unit among several in which an amount is shown. */
export function scaleOf(value: number, dimension: Dimension, units: Units): Scale {
  const all = scales(dimension, units);
  const scale = all.find((s) => value !== 0 && (s.below === null || Math.abs(value) < s.below)) ?? all.at(-1);
  return scale ?? { below: null, factor: 1, offset: 0, symbol: "", said: 3, exact: 6 };
}

/** The unit in which amounts of a size are typed and shown in a table: that of the greatest, or of small ones. */
export function unitFor(dimension: Dimension, units: Units, size: "small" | "large" = "large"): Scale {
  const all = scales(dimension, units);
  const scale = size === "small" ? all[0] : all.at(-1);
  return scale ?? { below: null, factor: 1, offset: 0, symbol: "", said: 3, exact: 6 };
}
