import type { GridRow, Schema } from "../../api/client";
import { type Figures, SYMBOL, type Unit } from "../../units";

export type Column = Schema["GridColumn"];

/** A row with nothing in it. */
export const blankRow = (): GridRow => ({ typed: {} });

/** True where nothing was typed. */
export function isBlank(row: GridRow): boolean {
  return Object.values(row.typed).every((c) => c.trim() === "");
}

/** True for a figure without a unit. */
const BARE = /^[\s\d.,+\-−]+$/;

export const isPressure = (column: Column) => column.dimension === "gauge_pressure_pa";

/** Rows with a unit behind the bare cells of some columns. */
function withSuffix(rows: readonly GridRow[], columns: readonly Column[], unit: (column: Column) => string | undefined): GridRow[] {
  return rows.map((row) => {
    const cells = columns.flatMap((c) => {
      const text = row.typed[c.name] ?? "";
      const behind = BARE.test(text) ? unit(c) : undefined;
      return behind ? [[c.name, `${text.trim()} ${behind}`] as const] : [];
    });
    return cells.length ? { ...row, typed: { ...row.typed, ...Object.fromEntries(cells) } } : row;
  });
}

/** Rows with a unit behind each bare pressure, so that they mean the same when the unit beside the column is another. */
export function withUnits(rows: readonly GridRow[], columns: readonly Column[], unit: Unit): GridRow[] {
  return withSuffix(rows, columns.filter(isPressure), () => SYMBOL[unit]);
}

/** The unit that stands beside a column; none beside a wall that is read in another than millimetres, for a bare one may be a schedule. */
export function besideColumn(column: Column, show: Figures): string | undefined {
  if (isPressure(column)) return show.symbol;
  if (column.dimension) return show.unitFor(column.dimension, column.small ? "small" : "large").symbol;
  if (column.name === "wall" && show.units.length === "foot") return "with its unit";
  return column.unit || undefined;
}

/** Columns that a person may read in another unit than that of a bare cell; what stands beside a pressure is kept with the row as it is stored. */
const converts = (columns: readonly Column[]) => columns.filter((c) => c.dimension && !isPressure(c));

/** Rows with a unit behind each bare figure that is not in the unit in which a bare cell is read. */
export function named(rows: readonly GridRow[], columns: readonly Column[], show: Figures): GridRow[] {
  return withSuffix(rows, converts(columns), (c) => {
    const unit = besideColumn(c, show);
    return unit === c.unit ? undefined : unit;
  });
}

/** Rows as they are stored, bare cells with the unit in which they were read where that is not the person's. */
export function asStored(rows: readonly GridRow[], columns: readonly Column[], show: Figures): GridRow[] {
  return withSuffix(rows, converts(columns), (c) => (besideColumn(c, show) === c.unit ? undefined : c.unit));
}

/** Puts rows into a grid from one row on; rows that hold nothing make room. */
export function putIn(grid: readonly GridRow[], at: number, rows: readonly GridRow[]): GridRow[] {
  const before = grid.slice(0, at);
  const after = grid.slice(at).filter((row) => !isBlank(row));
  return [...before, ...rows, ...after];
}
