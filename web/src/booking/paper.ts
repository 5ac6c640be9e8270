import type { Schema } from "../api/client";
import { SYMBOL } from "../units";
import { type Read, readTime } from "./clock";

type Further = Schema["Further"];

/** A line of a sheet of paper, as it was written: time, pressure, temperature, and a cell for each further instrument, by its tag. */
export type PaperRow = { time: string; pressure: string; temperature: string } & Record<string, string>;

export const EMPTY_ROW: PaperRow = { time: "", pressure: "", temperature: "" };
const COLUMNS: readonly string[] = ["time", "pressure", "temperature"];

/** Columns of further gauges and thermometers, each headed by its tag and unit; on every sheet the gauges stand beside the first one. */
export function columnsOf(further: readonly Further[], degrees: string) {
  const of = (channel: Further["channel"], unit: (f: Further) => string) =>
    further.filter((f) => f.channel === channel).map((f) => ({ tag: f.tag, head: `${f.tag}, ${unit(f)}` }));
  return { gauges: of("pressure", (f) => SYMBOL[f.unit]), thermometers: of("temperature", () => degrees) };
}

const isRead = (row: PaperRow) => Object.entries(row).some(([column, cell]) => column !== "time" && cell.trim());
/** True where nothing was written. */
export const isEmpty = (row: PaperRow) => !row.time.trim() && !isRead(row);

/** Cells of a text that was copied out of a table: by tabs, else by semicolons; one cell a line where neither is there. */
function cells(text: string): string[][] {
  const lines = text.replace(/\r\n?/g, "\n").replace(/\n+$/, "").split("\n");
  const by = text.includes("\t") ? "\t" : ";";
  return lines.map((line) => line.split(by).map((cell) => cell.trim()));
}

/** True where a text is more than one cell. */
export const isTable = (text: string) => /[\t\n\r;]/.test(text.trim());

/** Rows with a table put in at a cell, down and to the right; what does not fit to the right is left out. */
export function pasted(rows: readonly PaperRow[], at: number, column: string, text: string, columns = COLUMNS): PaperRow[] {
  const all = rows.map((r) => ({ ...r }));
  const first = columns.indexOf(column);
  cells(text).forEach((line, i) => {
    while (all.length <= at + i) all.push({ ...EMPTY_ROW });
    line.forEach((cell, j) => {
      const into = columns[first + j];
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
    else if (!isRead(row)) all.set(i, "Neither a pressure nor a temperature stands here.");
    else if (twice !== undefined) all.set(i, `The same time stands in line ${twice + 1}.`);
    if (at) seen.set(at, i);
  });
  return all;
}
