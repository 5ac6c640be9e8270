import { type ClipboardEvent, useState } from "react";
import { type Attempt, http, newId, problemField, type Schema, sentence } from "../api/client";
import { usePackActions } from "../api/pack";
import { useKept } from "../api/typing";
import { dayOf, zoneName } from "../api/zone";
import { siteNow } from "../api/clock";
import { Button, Dialog, Field, Problem, TextInput } from "../ui";
import { SYMBOL, type Unit, useFigures } from "../units";
import { columnsOf, EMPTY_ROW, isEmpty, isTable, momentOfRow, objectionsTo, type PaperRow, pasted } from "./paper";
import { inUnits } from "./in-units";

const ROWS = 6;
const NOTHING = { day: "", rows: Array.from({ length: ROWS }, () => ({ ...EMPTY_ROW })) as PaperRow[] };

/** A whole sheet of readings that were written down with a pencil: typed line by line, or pasted from a table. */
export function PaperReadings({ attempt, gauge, unit }: { attempt: Attempt; gauge: string; unit: Unit }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button onClick={() => setOpen(true)}>Type in a sheet of paper…</Button>
      {open ? <Sheet attempt={attempt} gauge={gauge} unit={unit} onClose={() => setOpen(false)} /> : null}
    </>
  );
}

type Sent = Schema["TypedReading"];

function Sheet({ attempt: { id: attempt, further }, gauge, unit, onClose }: { attempt: Attempt; gauge: string; unit: Unit; onClose: () => void }) {
  const show = useFigures();
  const degrees = show.symbolOf("temperature_c");
  const others = columnsOf(further, degrees);
  const columns = ["time", "pressure", ...others.gauges.map((g) => g.tag), "temperature", ...others.thermometers.map((t) => t.tag)];
  const heads = ["time", `${gauge}, ${SYMBOL[unit]}`, ...others.gauges.map((g) => g.head), degrees, ...others.thermometers.map((t) => t.head)];
  const { refresh } = usePackActions();
  const [{ day, rows }, set, stored] = useKept(`paper ${attempt} in ${unit} ${degrees}`, "a sheet of readings", NOTHING);
  // ids of what was sent and not yet acknowledged: sent again unchanged it is stored once
  const [ids] = useState(() => new Map<string, string>());
  const [wrong, setWrong] = useState<Map<number, string>>(new Map());
  const [doubtful, setDoubtful] = useState<number | null>(null);
  const [sure, setSure] = useState<ReadonlySet<string>>(new Set());
  const [problem, setProblem] = useState("");
  const change = (i: number, column: string, text: string) => set({ rows: rows.map((r, n) => (n === i ? { ...r, [column]: text } : r)) });
  const paste = (e: ClipboardEvent, i: number, column: string) => {
    const text = e.clipboardData.getData("text");
    if (!isTable(text)) return;
    e.preventDefault();
    set({ rows: pasted(rows, i, column, text, columns) });
  };
  const send = async (certain = sure) => {
    const against = objectionsTo(rows, day);
    setWrong(against);
    setDoubtful(null);
    setProblem("");
    if (against.size) return;
    const idOf = (key: string) => {
      const there = ids.get(key) ?? newId();
      ids.set(key, there);
      return there;
    };
    const sent: { row: number; body: Sent }[] = [];
    rows.forEach((row, i) => {
      const { at } = momentOfRow(row, day);
      if (isEmpty(row) || !at) return;
      const add = (column: string, of: string, channel: Sent["channel"], dial: Unit) => {
        const text = (row[column] ?? "").trim();
        const key = `${column} ${at} ${text}`;
        const written = channel === "pressure" ? text : inUnits(text, degrees);
        if (text) sent.push({ row: i, body: { id: idOf(key), at, channel, of, text: written, unit: dial, sure: certain.has(`${at} ${i}`) } });
      };
      add("pressure", "", "pressure", unit);
      add("temperature", "", "temperature", unit);
      for (const f of further) add(f.tag, f.tag, f.channel, f.unit);
    });
    if (!sent.length) {
      setProblem("Nothing stands on the sheet yet.");
      return;
    }
    try {
      const { error } = await http.PUT("/api/v1/attempts/{attempt}/readings", { params: { path: { attempt } }, body: { readings: sent.map((s) => s.body) } });
      if (error) {
        const at = Number(/^readings\[(\d+)\]/.exec(problemField(error) ?? "")?.[1] ?? Number.NaN);
        const row = sent[at]?.row;
        if (row === undefined) setProblem(sentence(error));
        else {
          setWrong(new Map([[row, sentence(error)]]));
          if ((error as { type?: string }).type === "/problems/doubtful") setDoubtful(row);
        }
        return;
      }
      stored();
      await refresh();
      onClose();
    } catch (e) {
      setProblem(`${sentence(e)} It is still here.`);
    }
  };
  const written = rows.filter((r) => !isEmpty(r)).length;
  return (
    <Dialog
      open
      onOpenChange={(o) => !o && onClose()}
      title="A sheet of readings"
      description="As they were written down: a line for each, or a table pasted into the first cell. Every reading keeps your name, and the time at which it was read."
    >
      <form
        className="grid gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          void send();
        }}
        noValidate
      >
        <Field label={`Day of the sheet (${zoneName()})`} hint="Empty: today, or yesterday where a time lies ahead. A line may have its own, like 2026-06-01 23:50.">
          {(f) => <TextInput {...f} value={day} onChange={(e) => set({ day: e.target.value })} placeholder={dayOf(siteNow())} />}
        </Field>
        <div className="max-h-[45vh] overflow-y-auto">
          <table className="w-full border-collapse">
            <thead>
              <tr className="text-left text-sm text-soft">
                <th scope="col" className="pr-2 font-normal">
                  <span className="sr-only">line</span>
                </th>
                {heads.map((head, i) => (
                  <th key={columns[i]} scope="col" className="font-normal">
                    {head}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {rows.map((row, i) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: a line is what stands at its place on the sheet
                <Line key={i} n={i} row={row} columns={columns} wrong={wrong.get(i)} onChange={change} onPaste={paste} />
              ))}
            </tbody>
          </table>
        </div>
        {doubtful === null ? null : (
          <div>
            <Button
              onClick={() => {
                const row = rows[doubtful];
                const at = row && momentOfRow(row, day).at;
                if (!row || !at) return;
                const certain = new Set([...sure, `${at} ${doubtful}`]);
                setSure(certain);
                void send(certain);
              }}
            >
              The gauge really showed this in line {doubtful + 1}: store it
            </Button>
          </div>
        )}
        <Problem>{problem}</Problem>
        <div className="flex flex-wrap gap-3">
          <Button type="submit" kind="main">
            {written === 1 ? "Store 1 line" : `Store ${written} lines`}
          </Button>
          <Button onClick={() => set({ rows: [...rows, ...NOTHING.rows.map((r) => ({ ...r }))] })}>More lines</Button>
          <Button onClick={onClose}>Leave it</Button>
        </div>
      </form>
    </Dialog>
  );
}

interface LineProps {
  n: number;
  row: PaperRow;
  columns: readonly string[];
  wrong: string | undefined;
  onChange: (i: number, column: string, text: string) => void;
  onPaste: (e: ClipboardEvent, i: number, column: string) => void;
}

const SAID: Record<string, string> = { time: "Time", pressure: "Pressure", temperature: "Temperature" };

function Line({ n, row, columns, wrong, onChange, onPaste }: LineProps) {
  return (
    <>
      <tr>
        <td className="num pr-2 text-sm text-soft">{n + 1}</td>
        {columns.map((column) => (
          <td key={column} className="py-0.5 pr-2">
            <TextInput
              aria-label={`${SAID[column] ?? column}, line ${n + 1}`}
              aria-invalid={wrong ? true : undefined}
              value={row[column] ?? ""}
              onChange={(e) => onChange(n, column, e.target.value)}
              onPaste={(e) => onPaste(e, n, column)}
              inputMode={column === "time" ? undefined : "decimal"}
            />
          </td>
        ))}
      </tr>
      {wrong ? (
        <tr>
          <td />
          <td colSpan={columns.length} role="alert" className="pb-1 text-sm font-semibold text-danger">
            Line {n + 1}: {wrong}
          </td>
        </tr>
      ) : null}
    </>
  );
}
