import { number } from "../units";

/** A bare figure with the unit that stands beside its field; a bare one is read as °C. */
export function inUnits(text: string, symbol: string): string {
  return number(text) === undefined || symbol === "°C" ? text : `${text.trim()} ${symbol}`;
}
