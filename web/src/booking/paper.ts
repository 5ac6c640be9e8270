import { type Read, readTime } from "./clock";

/** A line of a sheet of paper, as it was written: time, pressure, temperature. */
export interface PaperRow {
  time: string;
  pressure: string;
  temperature: string;
}

export const EMPTY_ROW: PaperRow = { time: "", pressure: "", temperature: "" };
const COLUMNS = ["time", "pressure", "temperature"] as const;
export type PaperColumn = (typeof COLUMNS)[number];

/** True where nothing was written. */
export const isEmpty = (row: PaperRow) => COLUMNS.every((c) => !row[c].trim());

/** Cells of a text that was copied out of a table: by tabs, else by semicolons; one cell a line where neither is there. */
function cells(text: string): string[][] {
  const lines = text.replace(/\r\n?/g, "\n").replace(/\n+$/, "").split("\n");
  const by = text.includes("\t") ? "\t" : ";";
  return lines.map((line) => line.split(by).map((cell) => cell.trim()));
}

/** True where a text is more than one cell. */
export const isTable = (text: string) => /[\t\n\r;]/.test(text.trim());

/** Rows with a table put in at a cell, down and to the right; what does not fit to the right is left out. */
export function pasted(rows: readonly PaperRow[], at: number, column: PaperColumn, text: string): PaperRow[] {
  const all = rows.map((r) => ({ ...r }));
  const first = COLUMNS.indexOf(column);
  cells(text).forEach((line, i) => {
    while (all.length <= at + i) all.push({ ...EMPTY_ROW });
    line.forEach((cell, j) => {
      const into = COLUMNS[first + j];
      const row = all[at + i];
      if (into && row) row[into] = cell;
    });
  });
  return all;
}

/** The moment of a line: a sheet has its day once at its head, and a line may have its own. An empty time is missing, never now. */
export function momentOfRow(row: PaperRow, day: string): Read {
  const time = row.time.trim();
  if (!time) return { at: null, why: "When was it read? Write the time as 09:12." };
  const own = /^\d{4}-\d{2}-\d{2}[ T]/.test(time);
  return readTime(own || !day.trim() ? time : `${day.trim()} ${time}`);
}

/** What is wrong with each line before it is sent; a line with nothing wrong has no entry. */
export function objectionsTo(rows: readonly PaperRow[], day: string): Map<number, string> {
  const all = new Map<number, string>();
  const seen = new Map<string, number>();
  rows.forEach((row, i) => {
    if (isEmpty(row)) return;
    const { at, why } = momentOfRow(row, day);
    const twice = at ? seen.get(at) : undefined;
    if (!at) all.set(i, why);
    else if (!row.pressure.trim() && !row.temperature.trim()) all.set(i, "Neither a pressure nor a temperature stands here.");
    else if (twice !== undefined) all.set(i, `The same time stands in line ${twice + 1}.`);
    if (at) seen.set(at, i);
  });
  return all;
}
