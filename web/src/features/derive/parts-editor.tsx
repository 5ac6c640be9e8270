import { type ClipboardEvent, type KeyboardEvent, useEffect, useRef, useState } from "react";
import { http, isOutrun, look, type Schema, sentence } from "../../api/client";
import { usePack, usePackActions } from "../../api/pack";
import { Button, Dialog, Problem } from "../../ui";
import { Gap, useSeenRows } from "./seen-rows";

type Fate = Schema["PartsFate"];
const HINTS: Record<string, string> = {
  tag: "Top run",
  kind: "pipe",
  height: "18.5",
  size: "DN150",
  wall: "sch 40",
  length: "120",
  material: "A106-B",
  class: "150",
  rating: "80",
  limit: "66 bar",
  volume: "2.4 L",
};
const UNITS: Record<string, string> = {
  height: "m",
  wall: "mm",
  length: "m",
  rating: "bar",
  limit: "bar",
  volume: "m³",
  seal: "mm",
  restraint: "kN",
  bend: "°",
  "test pressure": "bar",
  proven: "bar",
  corrosion: "mm",
};
/** Columns that most systems leave empty; shown where one is filled, or when asked for. */
const SELDOM: readonly string[] = ["seal", "restraint", "bend", "test pressure", "proven", "seat", "corrosion"];
const ROW = 34;
const WIDTH: Record<string, string> = { tag: "11rem", material: "8rem", kind: "6.5rem", "test pressure": "7rem" };

/** Rows of text as typed. The server reads them; what is typed is never rewritten. */
export function PartsEditor({ onDone }: { onDone: () => void }) {
  const pack = usePack();
  const actions = usePackActions();
  const columns = pack.columns;
  const blank = () => columns.map(() => "");
  const [rows, setRows] = useState<string[][]>(() => (pack.cells.length ? pack.cells.map((r) => columns.map((_, i) => r[i] ?? "")) : [blank(), blank(), blank()]));
  // the rows on which the typing began; a newer version with the same rows is no change to these
  const [base, setBase] = useState(pack);
  if (base.version !== pack.version && JSON.stringify(base.cells) === JSON.stringify(pack.cells)) setBase(pack);
  const [fate, setFate] = useState<Fate | null>(null);
  const [file, setFile] = useState<{ name: string; fate: Fate } | null>(null);
  const [problem, setProblem] = useState("");
  const [saving, setSaving] = useState(false);
  const grid = useRef<HTMLDivElement>(null);
  const [more, setMore] = useState(false);
  const shown = columns.map((c, i) => [c, i] as const).filter(([c, i]) => more || !SELDOM.includes(c) || rows.some((r) => (r[i] ?? "").trim() !== ""));
  const seen = useSeenRows(rows.length, grid, ROW);
  const filled = rows.filter((r) => r.some((c) => c.trim() !== ""));

  // each row's fate, a moment after the typing stops
  useEffect(() => {
    const cells = rows.filter((r) => r.some((c) => c.trim() !== ""));
    if (cells.length === 0) return setFate(null);
    const later = setTimeout(async () => {
      try {
        const { data } = await http.POST("/api/v1/packs/{id}/parts/check", { params: { path: { id: pack.id } }, body: { cells } });
        if (data) setFate(data);
      } catch {
        // the server cannot be reached: the rows are checked again when they are saved
        setFate(null);
      }
    }, 350);
    return () => clearTimeout(later);
  }, [rows, pack.id]);

  const set = (r: number, c: number, text: string) => setRows((all) => all.map((row, i) => (i === r ? row.map((cell, j) => (j === c ? text : cell)) : row)));
  const paste = (e: ClipboardEvent, r: number, c: number) => {
    const text = e.clipboardData.getData("text/plain");
    if (!/[\t\n]/.test(text.trim())) return;
    e.preventDefault();
    const block = text
      .replace(/\r/g, "")
      .replace(/\n+$/, "")
      .split("\n")
      .map((l) => l.split("\t"));
    setRows((all) => {
      const next = all.map((row) => [...row]);
      block.forEach((cells, i) => {
        while (next.length <= r + i) next.push(blank());
        // what is pasted goes into the columns that are seen
        const from = shown.findIndex(([, at]) => at === c);
        cells.forEach((cell, j) => {
          const row = next[r + i];
          const column = shown[from + j]?.[1];
          if (row && column !== undefined) row[column] = cell.trim();
        });
      });
      return next;
    });
  };
  const move = (e: KeyboardEvent, r: number, c: number) => {
    const to = { ArrowDown: r + 1, Enter: r + 1, ArrowUp: r - 1 }[e.key];
    if (to === undefined) return;
    e.preventDefault();
    if (to === rows.length) setRows((all) => [...all, blank()]);
    seen.show(to);
    requestAnimationFrame(() => grid.current?.querySelector<HTMLInputElement>(`[data-cell="${to}:${c}"]`)?.focus());
  };
  const save = async () => {
    setProblem("");
    setSaving(true);
    try {
      await actions.parts(filled, base.version);
      onDone();
    } catch (e) {
      const theirs = isOutrun(e) ? await actions.newest() : null;
      if (theirs) setBase(theirs);
      setProblem(`${sentence(e)}${theirs ? ` The grid there now has ${theirs.cells.length} rows; saving again puts these in their place.` : ""}`);
    } finally {
      setSaving(false);
    }
  };
  const bring = async (chosen: File) => {
    const { seen, why } = await look<Fate>(`/api/v1/packs/${pack.id}/parts/preview`, chosen);
    setProblem(why);
    if (seen) setFile({ name: chosen.name, fate: seen });
  };
  const take = (cells: string[][]) => {
    setRows(cells);
    setFile(null);
  };
  // the server tells the fate of the rows that hold something, in their order
  let used = -1;
  const fateOf = rows.map((row) => (row.some((c) => c.trim() !== "") ? fate?.rows[++used] : undefined));
  return (
    <div className="grid min-w-0 gap-3">
      <div ref={grid} className="-m-1 max-h-[60vh] overflow-auto p-1" role="region" aria-label="Parts as typed">
        <table className="w-full table-fixed border-collapse border border-rule bg-sheet text-sm" style={{ minWidth: `${shown.length * 5 + 12}rem` }}>
          <thead className="sticky top-0 z-10 bg-sheet">
            <tr>
              <th scope="col" className="w-7">
                <span className="sr-only">fate</span>
              </th>
              {shown.map(([c]) => (
                <th key={c} scope="col" className="border border-hair px-1 py-1 text-soft" style={{ width: WIDTH[c] }}>
                  {c}
                  {UNITS[c] ? <span className="text-xs"> {UNITS[c]}</span> : null}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            <Gap height={seen.before} columns={shown.length + 1} />
            {seen.rows.map((r) => {
              const row = rows[r] ?? [];
              const said = fateOf[r];
              const bad = (c: string) => said?.problems.find((p) => p.column === c);
              return (
                <tr key={r} style={{ height: ROW }}>
                  <td className="text-center" title={said ? (said.part ? "good" : "refused") : ""}>
                    {said ? <span className={said.part ? "text-water" : "font-bold text-danger"}>{said.part ? "✓" : "!"}</span> : null}
                  </td>
                  {shown.map(([c, i]) => (
                    <td key={c} className={`border border-hair p-0 ${bad(c) ? "bg-dangerwash" : ""}`}>
                      <input
                        data-cell={`${r}:${i}`}
                        aria-label={`${c}, row ${r + 1}`}
                        aria-invalid={bad(c) ? true : undefined}
                        title={bad(c)?.sentence ?? row[i]}
                        className="w-full border-0 bg-transparent px-1 py-1.5 font-mono text-ink placeholder:text-rule"
                        placeholder={r === 0 && filled.length === 0 ? HINTS[c] : ""}
                        value={row[i] ?? ""}
                        onChange={(e) => set(r, i, e.target.value)}
                        onPaste={(e) => paste(e, r, i)}
                        onKeyDown={(e) => move(e, r, i)}
                      />
                    </td>
                  ))}
                </tr>
              );
            })}
            <Gap height={seen.after} columns={shown.length + 1} />
          </tbody>
        </table>
      </div>
      <ul className="m-0 grid list-none gap-1 p-0 text-sm text-danger" aria-live="polite">
        {fate?.rows
          .flatMap((r) => r.problems.map((p) => ({ line: r.line, ...p })))
          .slice(0, 8)
          .map((p) => (
            <li key={`${p.line}${p.column}${p.sentence}`}>
              Row {p.line}, {p.column}: {p.sentence}
            </li>
          ))}
      </ul>
      <Problem>{problem}</Problem>
      <div className="flex flex-wrap items-center gap-3">
        <Button kind="main" onClick={save} disabled={saving || filled.length === 0 || (fate !== null && fate.good < fate.rows.length)}>
          Save the parts
        </Button>
        <Button onClick={() => setRows((all) => [...all, blank()])}>Add a row</Button>
        {shown.length < columns.length ? <Button onClick={() => setMore(true)}>More columns</Button> : null}
        <label className="inline-flex min-h-9 cursor-pointer items-center rounded-[3px] border border-rule bg-sheet px-4 text-sm font-semibold focus-within:outline-2 focus-within:outline-water">
          Read a CSV file
          <input type="file" accept=".csv,.txt,.tsv" className="sr-only" aria-label="Read a CSV file" onChange={(e) => e.target.files?.[0] && bring(e.target.files[0])} />
        </label>
        {pack.cells.length ? <Button onClick={onDone}>Leave it as it was</Button> : null}
        <span role="status" className="text-sm text-soft">
          {saving ? "saving" : fate ? `${fate.good} of ${fate.rows.length} rows good` : ""}
        </span>
      </div>
      {file ? <Preview file={file} columns={columns} onClose={() => setFile(null)} onTake={take} /> : null}
    </div>
  );
}

interface PreviewProps {
  file: { name: string; fate: Fate };
  columns: string[];
  onClose: () => void;
  onTake: (cells: string[][]) => void;
}

/** Each row of a file with its fate, before anything is taken. */
function Preview({ file, columns, onClose, onTake }: PreviewProps) {
  const { fate } = file;
  return (
    <Dialog
      open
      onOpenChange={(o) => !o && onClose()}
      title={`${file.name}: ${fate.good} of ${fate.rows.length} rows good`}
      description={fate.ignored_columns.length ? `Columns that mean nothing here: ${fate.ignored_columns.join(", ")}.` : undefined}
      wide
    >
      <div className="max-h-[50vh] overflow-auto" tabIndex={0} role="region" aria-label="Rows of the file">
        <table className="w-full border-collapse text-sm">
          <thead>
            <tr className="border-b border-rule text-soft">
              <th scope="col" className="pr-2">
                line
              </th>
              {columns.map((c) => (
                <th key={c} scope="col" className="pr-2">
                  {c}
                </th>
              ))}
              <th scope="col">fate</th>
            </tr>
          </thead>
          <tbody>
            {fate.rows.slice(0, 200).map((r) => (
              <tr key={r.line} className={`border-b border-hair ${r.part ? "" : "bg-dangerwash"}`}>
                <td className="num pr-2">{r.line}</td>
                {r.cells.map((c, i) => (
                  <td key={columns[i]} className="pr-2 font-mono">
                    {c}
                  </td>
                ))}
                <td>{r.part ? "good" : r.problems.map((p) => `${p.column}: ${p.sentence}`).join(" ")}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <div className="mt-4 flex gap-3">
        <Button kind="main" onClick={() => onTake(fate.rows.map((r) => r.cells))}>
          {fate.good === fate.rows.length ? "Take these rows" : "Take them to the grid and mend them there"}
        </Button>
        <Button onClick={onClose}>Leave it</Button>
      </div>
    </Dialog>
  );
}
