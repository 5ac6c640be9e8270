import type { Schema } from "../api/client";
import { decimalsFor, fineDivision, inUnit, type Rounding, SYMBOL, type Unit, withUnit } from "./pressure";

type Amount = Schema["Amount"];

function plain(v: number, digits: number, how: Rounding = "nearest"): string {
  if (v === 0) return "0";
  const step = 10 ** (Math.floor(Math.log10(Math.abs(v))) + 1 - digits);
  const steps = v / step;
  const rounded = (how === "up" ? Math.ceil(steps - 1e-9) : how === "down" ? Math.floor(steps + 1e-9) : Math.round(steps)) * step;
  return String(Number(rounded.toPrecision(digits + 1))).replace("-", "−");
}

/** A figure with two or three digits and its unit; the two are never parted by a line break. */
export function roughly(value: number, unit: string, digits = 2): string {
  return `${plain(value, digits)}\u00a0${unit}`;
}

export function volume(m3: number, digits = 3): string {
  if (m3 < 1e-3) return roughly(m3 * 1e6, "mL", digits);
  return m3 < 0.1 ? roughly(m3 * 1e3, "L", digits) : roughly(m3, "m³", digits);
}

/** A leak rate: litres an hour from a tenth up, millilitres below; of gas at 0 °C and 101 325 Pa. */
export function leakRate(m3PerS: number, gas: boolean, digits = 2): string {
  const l = m3PerS * 3.6e6;
  const unit = `${gas ? "normal\u00a0" : ""}${Math.abs(l) >= 0.1 ? "L/h" : "mL/h"}`;
  return roughly(Math.abs(l) >= 0.1 ? l : l * 1e3, unit, digits);
}

export function energy(j: number): string {
  if (j >= 1e6) return roughly(j / 1e6, "MJ", 3);
  return j >= 1e3 ? roughly(j / 1e3, "kJ", 3) : roughly(j, "J", 3);
}

export function span(s: number): string {
  if (s < 90) return roughly(s, "s");
  if (s < 5400) return roughly(s / 60, "min");
  return s < 48 * 3600 ? roughly(s / 3600, "h") : roughly(s / 86400, "days");
}

/** A figure as a sentence says it: few digits, the size of unit that suits it. */
export function said(a: Amount, unit: Unit, divisionPa: number, toward: Schema["Toward"]): string {
  const how: Rounding = toward === "as_named" ? "nearest" : toward;
  switch (a.dimension) {
    case "gauge_pressure_pa":
      if (toward === "as_named") return `${Number(inUnit(a.value, unit).toPrecision(3))}\u00a0${SYMBOL[unit]}`;
      return withUnit(a.value, unit, decimalsFor(how === "down" ? fineDivision(divisionPa) : divisionPa, unit), how);
    case "pressure_difference_pa":
      return withUnit(a.value, unit, decimalsFor(Math.min(fineDivision(divisionPa), Math.max(Math.abs(a.value) / 50, 1)), unit));
    case "length_m":
      return Math.abs(a.value) < 0.5 ? roughly(Math.ceil(a.value * 1e4 - 1e-6) / 10, "mm", 3) : `${plain(a.value, 3, how)}\u00a0m`;
    case "temperature_c":
      return `${plain(a.value, 2)}\u00a0°C`;
    case "temperature_difference_k":
      return roughly(a.value, "K", 2);
    case "volume_m3":
      return volume(a.value);
    case "time_s":
      return span(a.value);
    case "force_n":
      return Math.abs(a.value) < 1e3 ? roughly(a.value, "N", 3) : roughly(a.value / 1e3, "kN", 3);
    case "energy_j":
      return energy(a.value);
    case "mass_kg":
      return a.value >= 1e3 ? roughly(a.value / 1e3, "t") : roughly(a.value, "kg");
    case "volume_flow_m3_per_s":
      return a.value * 6e4 < 200 ? roughly(a.value * 6e4, "L/min", 3) : roughly(a.value * 3600, "m³/h", 3);
    case "leak_m3_per_s":
      return leakRate(a.value, false);
    case "normal_leak_m3_per_s":
      return leakRate(a.value, true);
    case "area_m2":
      return roughly(a.value, "m²");
    case "share":
      return roughly(a.value * 100, "%", 3);
    default:
      return plain(a.value, 3);
  }
}

/** An amount of a derivation: as many digits as the arithmetic has. */
export function exactly(a: Amount, unit: Unit, divisionPa: number): string {
  const digits = (v: number, n: number) => String(Number(v.toPrecision(n))).replace("-", "−");
  switch (a.dimension) {
    case "gauge_pressure_pa":
    case "pressure_difference_pa":
      return withUnit(a.value, unit, decimalsFor(divisionPa / 10, unit));
    case "stress_pa":
      return `${digits(a.value / 1e6, 5)}\u00a0MPa`;
    case "length_m":
      return Math.abs(a.value) < 0.5 && a.value !== 0 ? `${digits(a.value * 1e3, 5)}\u00a0mm` : `${digits(a.value, 5)}\u00a0m`;
    case "temperature_c":
      return `${digits(a.value, 5)}\u00a0°C`;
    case "temperature_difference_k":
      return `${digits(a.value, 3)}\u00a0K`;
    case "density_kg_m3":
      return `${digits(a.value, 6)}\u00a0kg/m³`;
    case "volume_m3":
      return Math.abs(a.value) < 1e-3 && a.value !== 0 ? `${digits(a.value * 1e6, 4)}\u00a0mL` : `${digits(a.value, 4)}\u00a0m³`;
    case "pressure_per_kelvin_pa_per_k":
      return `${withUnit(a.value, unit, 2)} per K`;
    case "force_n":
      return `${digits(a.value / 1e3, 4)}\u00a0kN`;
    case "energy_j":
      return `${digits(a.value / 1e3, 4)}\u00a0kJ`;
    case "mass_kg":
      return `${digits(a.value, 3)}\u00a0kg`;
    case "time_s":
      return `${digits(a.value / 60, 4)}\u00a0min`;
    case "volume_flow_m3_per_s":
      return `${digits(a.value * 6e4, 4)}\u00a0L/min`;
    case "leak_m3_per_s":
      return leakRate(a.value, false, 4);
    case "normal_leak_m3_per_s":
      return leakRate(a.value, true, 4);
    case "area_m2":
      return `${digits(a.value, 4)}\u00a0m²`;
    case "share":
      return `${digits(a.value * 100, 4)}\u00a0%`;
    default:
      return digits(a.value, 6);
  }
}
