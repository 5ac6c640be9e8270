import type { GridRow } from "../../api/client";
import { SYMBOL, type Unit } from "../../units/pressure";

/** A row with nothing in it. */
export const blankRow = (): GridRow => ({ typed: {} });

/** True where nothing was typed. */
export function isBlank(row: GridRow): boolean {
  return Object.values(row.typed).every((c) => c.trim() === "");
}

/** True for a figure without a unit. */
const BARE = /^[\s\d.,+\-−]+$/;

/** Rows with a unit behind each bare pressure, so that they mean the same when the unit beside the column is another. */
export function withUnits(rows: readonly GridRow[], pressures: readonly string[], unit: Unit): GridRow[] {
  return rows.map((row) => {
    const bare = pressures.filter((c) => BARE.test(row.typed[c] ?? ""));
    if (bare.length === 0) return row;
    const named = bare.map((c) => [c, `${row.typed[c]?.trim()} ${SYMBOL[unit]}`] as const);
    return { ...row, typed: { ...row.typed, ...Object.fromEntries(named) } };
  });
}

/** Puts rows into a grid from one row on; rows that hold nothing make room. */
export function putIn(grid: readonly GridRow[], at: number, rows: readonly GridRow[]): GridRow[] {
  const before = grid.slice(0, at);
  const after = grid.slice(at).filter((row) => !isBlank(row));
  return [...before, ...rows, ...after];
}
