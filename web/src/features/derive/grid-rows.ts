import type { GridRow } from "../../api/client";
import { type Figures, SYMBOL, type Unit } from "../../units";

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

/** Units in which cells are read that say none; sizes are in millimetres, all else in the whole unit. */
const METRIC: Record<string, string> = {
  height: "m",
  "to height": "m",
  wall: "mm",
  "wall before": "mm",
  length: "m",
  volume: "m³",
  seal: "mm",
  restraint: "kN",
  bend: "°",
  corrosion: "mm",
  "design temperature": "°C",
  "years between": "years",
};
/** Of those, what a person may read in another unit; a wall stays as it is, for a bare one may be a schedule. */
const CONVERTS = {
  height: ["length_m", "large"],
  "to height": ["length_m", "large"],
  "wall before": ["length_m", "small"],
  length: ["length_m", "large"],
  volume: ["volume_m3", "large"],
  seal: ["length_m", "small"],
  corrosion: ["length_m", "small"],
  "design temperature": ["temperature_c", "large"],
} as const;

/** The unit that stands beside a column; none beside a wall that is read in another than millimetres, which is written with its unit. */
export function besideColumn(column: string, show: Figures): string | undefined {
  const [dimension, size] = CONVERTS[column as keyof typeof CONVERTS] ?? [];
  if (dimension) return show.unitFor(dimension, size).symbol;
  if (column === "wall" && show.units.length === "foot") return "with its unit";
  return METRIC[column];
}

/** Rows with a unit behind each bare figure that is not in the unit in which a bare cell is read. */
export function named(rows: readonly GridRow[], beside: (column: string) => string | undefined): GridRow[] {
  return rows.map((row) => {
    const cells = Object.entries(row.typed).flatMap(([c, text]) => {
      const unit = beside(c);
      return c in CONVERTS && unit && unit !== METRIC[c] && BARE.test(text) ? [[c, `${text.trim()} ${unit}`] as const] : [];
    });
    return cells.length ? { ...row, typed: { ...row.typed, ...Object.fromEntries(cells) } } : row;
  });
}

/** Rows as they are stored, bare cells with the unit in which they were read where that is not the person's. */
export function asStored(rows: readonly GridRow[], show: Figures): GridRow[] {
  return rows.map((row) => {
    const cells = Object.entries(row.typed).flatMap(([c, text]) =>
      c in CONVERTS && besideColumn(c, show) !== METRIC[c] && BARE.test(text) ? [[c, `${text.trim()} ${METRIC[c]}`] as const] : [],
    );
    return cells.length ? { ...row, typed: { ...row.typed, ...Object.fromEntries(cells) } } : row;
  });
}

/** Puts rows into a grid from one row on; rows that hold nothing make room. */
export function putIn(grid: readonly GridRow[], at: number, rows: readonly GridRow[]): GridRow[] {
  const before = grid.slice(0, at);
  const after = grid.slice(at).filter((row) => !isBlank(row));
  return [...before, ...rows, ...after];
}
