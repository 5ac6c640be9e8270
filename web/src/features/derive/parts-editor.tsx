import { type ClipboardEvent, type KeyboardEvent, useEffect, useRef, useState } from "react";
import { type GridRow, http, isOutrun, look, type Schema, sentence, UNITS_HEADER } from "../../api/client";
import { usePack, usePackActions } from "../../api/pack";
import { keptTyping, useTyping } from "../../api/typing";
import { Button, Problem } from "../../ui";
import { asStored, besideColumn, blankRow, isBlank, isPressure, named, putIn, withUnits } from "./grid-rows";
import { AskColumns, Preview } from "./parts-preview";
import { Gap, useSeenRows } from "./seen-rows";
import { useFigures } from "../../units";

type Fate = Schema["PartsFate"];
const ROW = 34;
const WIDTH: Record<string, string> = {
  tag: "11rem",
  material: "8rem",
  kind: "8rem",
  "test pressure": "7.5rem",
  "design pressure": "8rem",
  "design temperature": "8.5rem",
  "limit by": "7rem",
  "wall before": "7rem",
  "years between": "7.5rem",
  "to height": "6.5rem",
};

/** Something to be read: a file, or what was pasted, and the row from which it goes in. */
interface Brought {
  name: string;
  blob: Blob;
  /** Row from which a paste goes in; a file takes the place of every row. */
  at: number | null;
  /** Column on which it was pasted. */
  from: string;
  fate: Fate;
}

const keyOf = (pack: string) => `parts of ${pack}`;

/** True where this person typed parts here before and did not save them. */
export function partsTyped(pack: string): boolean {
  return keptTyping<GridRow[]>(keyOf(pack)) !== undefined;
}

/** Rows of text as typed. The server reads them; what is typed is never rewritten, but a bare pressure carries the unit under which it was typed. */
export function PartsEditor({ onDone }: { onDone: () => void }) {
  const pack = usePack();
  const actions = usePackActions();
  const show = useFigures(pack);
  const { unit } = show;
  const columns = pack.columns;
  // what was stored bare before units were kept meant bar
  const key = keyOf(pack.id);
  const [kept] = useState(() => keptTyping<GridRow[]>(key));
  const [dirty, setTyped] = useState(Boolean(kept));
  const [rows, setRows] = useState<GridRow[]>(() =>
    kept ? asStored(kept, columns, show) : pack.rows.length ? asStored(withUnits(pack.rows, columns, "bar"), columns, show) : [blankRow(), blankRow(), blankRow()],
  );
  const typedIn = useRef(show);
  useEffect(() => {
    const before = typedIn.current;
    typedIn.current = show;
    if (before === show) return;
    // what was typed bare keeps the unit under which it was typed
    setRows((all) => asStored(named(before.unit === show.unit ? all : withUnits(all, columns, before.unit), columns, before), columns, show));
  }, [show, columns]);
  // the rows on which the typing began; a newer version with the same rows is no change to these
  const [base, setBase] = useState(pack);
  if (base.version !== pack.version && JSON.stringify(base.rows) === JSON.stringify(pack.rows)) setBase(pack);
  const [fate, setFate] = useState<Fate | null>(null);
  const [brought, setBrought] = useState<Brought | null>(null);
  const [problem, setProblem] = useState("");
  const [saving, setSaving] = useState(false);
  const grid = useRef<HTMLDivElement>(null);
  const [more, setMore] = useState(false);
  const shown = columns.filter((c) => more || !c.seldom || rows.some((r) => (r.typed[c.name] ?? "").trim() !== ""));
  const seen = useSeenRows(rows.length, grid, ROW);
  const filled = rows.filter((r) => !isBlank(r));
  const against = objectionsByCell(pack);

  // each row's fate, a moment after the typing stops
  useEffect(() => {
    const held = rows.filter((r) => !isBlank(r));
    if (held.length === 0) return setFate(null);
    const later = setTimeout(async () => {
      try {
        const { data } = await http.POST("/api/v1/packs/{id}/parts/check", {
          params: { path: { id: pack.id } },
          headers: { [UNITS_HEADER]: unit },
          body: { rows: named(held, columns, show) },
        });
        if (data) setFate(data);
      } catch {
        // the server cannot be reached: the rows are checked again when they are saved
        setFate(null);
      }
    }, 350);
    return () => clearTimeout(later);
  }, [rows, pack.id, unit, show, columns]);

  const typing = useTyping({ key, what: "the parts", value: () => named(filled, columns, show), dirty: dirty && filled.length > 0 });
  const set = (r: number, c: string, text: string) => {
    setTyped(true);
    setRows((all) => all.map((row, i) => (i === r ? { ...row, typed: { ...row.typed, [c]: text } } : row)));
  };
  const bring = async (name: string, blob: Blob, at: number | null, from: string, names?: string[]) => {
    const query = names ? `?columns=${encodeURIComponent(names.join(";"))}` : "";
    const { seen, why } = await look<Fate>(`/api/v1/packs/${pack.id}/parts/preview${query}`, blob, unit);
    setProblem(why);
    setBrought(seen ? { name, blob, at, from, fate: seen } : null);
  };
  const paste = (e: ClipboardEvent, r: number, c: string) => {
    const text = e.clipboardData.getData("text/plain");
    if (!/[\t\n]/.test(text.trim())) return;
    e.preventDefault();
    void bring("What was pasted", new Blob([text]), r, c);
  };
  const move = (e: KeyboardEvent, r: number, c: string) => {
    const to = { ArrowDown: r + 1, Enter: r + 1, ArrowUp: r - 1 }[e.key];
    if (to === undefined) return;
    e.preventDefault();
    if (to === rows.length) setRows((all) => [...all, blankRow()]);
    seen.show(to);
    requestAnimationFrame(() => grid.current?.querySelector<HTMLInputElement>(`[data-cell="${to}:${c}"]`)?.focus());
  };
  const leave = () => {
    typing.done();
    onDone();
  };
  const save = async () => {
    setProblem("");
    setSaving(true);
    try {
      await actions.parts(named(filled, columns, show), unit, base.version);
      leave();
    } catch (e) {
      const theirs = isOutrun(e) ? await actions.newest() : null;
      if (theirs) setBase(theirs);
      setProblem(`${sentence(e)}${theirs ? ` The grid there now has ${theirs.rows.length} rows; saving again puts these in their place.` : ""}`);
    } finally {
      setSaving(false);
    }
  };
  const take = (taken: GridRow[]) => {
    const at = brought?.at ?? null;
    setTyped(true);
    setRows((all) => (at === null ? taken : putIn(all, at, taken)));
    setBrought(null);
  };
  // the server tells the fate of the rows that hold something, in their order
  let used = -1;
  const fateOf = rows.map((row) => (isBlank(row) ? undefined : fate?.rows[++used]));
  const problems = fateOf.flatMap((f, r) => (f ? f.problems.map((p) => ({ row: r + 1, ...p })) : []));
  return (
    <div className="grid min-w-0 gap-3">
      <div ref={grid} className="-m-1 max-h-[60vh] overflow-auto p-1" role="region" aria-label="Parts as typed">
        <table className="w-full table-fixed border-collapse border border-rule bg-sheet text-sm" style={{ minWidth: `${shown.length * 5.5 + 12}rem` }}>
          <thead className="sticky top-0 z-10 bg-sheet">
            <tr>
              <th scope="col" className="w-7">
                <span className="sr-only">fate</span>
              </th>
              {shown.map((c) => (
                <th key={c.name} scope="col" className="border border-hair px-1 py-1 text-soft" style={{ width: WIDTH[c.name] }}>
                  {c.name}
                  {besideColumn(c, show) ? <span className="text-xs"> {besideColumn(c, show)}</span> : null}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            <Gap height={seen.before} columns={shown.length + 1} />
            {seen.rows.map((r) => {
              const row = rows[r] ?? blankRow();
              const said = fateOf[r];
              const stands = (c: string) => said?.problems.find((p) => p.column === c)?.sentence ?? against(row.typed.tag ?? "", c);
              return (
                <tr key={r} style={{ height: ROW }}>
                  <td className="text-center" title={said ? (said.part ? "good" : "refused") : ""}>
                    {said ? <span className={said.part ? "text-water" : "font-bold text-danger"}>{said.part ? "✓" : "!"}</span> : null}
                  </td>
                  {shown.map(({ name: c, example }) => (
                    <td key={c} className={`border border-hair p-0 ${stands(c) ? "bg-dangerwash" : ""}`}>
                      <input
                        data-cell={`${r}:${c}`}
                        aria-label={`${c}, row ${r + 1}`}
                        aria-invalid={stands(c) ? true : undefined}
                        title={stands(c) ?? row.typed[c]}
                        className="w-full border-0 bg-transparent px-1 py-1.5 font-mono text-ink placeholder:text-rule"
                        placeholder={r === 0 && filled.length === 0 ? example : ""}
                        value={row.typed[c] ?? ""}
                        onChange={(e) => set(r, c, e.target.value)}
                        onPaste={(e) => paste(e, r, c)}
                        onKeyDown={(e) => move(e, r, c)}
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
      <ul className="m-0 grid max-h-48 list-none gap-1 overflow-auto p-0 text-sm text-danger" aria-live="polite">
        {problems.slice(0, 100).map((p) => (
          <li key={`${p.row}${p.column}${p.sentence}`}>
            Row {p.row}, {p.column}: {p.sentence}
          </li>
        ))}
        {problems.length > 100 ? <li>And {problems.length - 100} more.</li> : null}
      </ul>
      <Problem>{problem}</Problem>
      <div className="flex flex-wrap items-center gap-3">
        <Button kind="main" onClick={save} disabled={saving || filled.length === 0 || (fate !== null && fate.good < fate.rows.length)}>
          Save the parts
        </Button>
        <Button onClick={() => setRows((all) => [...all, blankRow()])}>Add a row</Button>
        {shown.length < columns.length ? <Button onClick={() => setMore(true)}>More columns</Button> : null}
        <label className="inline-flex min-h-9 cursor-pointer items-center rounded-[3px] border border-rule bg-sheet px-4 text-sm font-semibold focus-within:outline-2 focus-within:outline-water">
          Read a file (CSV, XLSX, INP)
          <input
            type="file"
            accept=".csv,.txt,.tsv,.xlsx,.inp"
            className="sr-only"
            aria-label="Read a file (CSV, XLSX, INP)"
            onChange={(e) => {
              const chosen = e.target.files?.[0];
              if (chosen) void bring(chosen.name, chosen, null, "tag");
            }}
          />
        </label>
        {pack.rows.length ? <Button onClick={leave}>Leave it as it was</Button> : null}
        <span role="status" className="text-sm text-soft">
          {saving ? "saving" : fate ? `${fate.good} of ${fate.rows.length} rows good` : ""}
          {typing.words && !saving ? `; ${typing.words}` : ""}
        </span>
      </div>
      {brought?.fate.headed ? (
        <Preview name={brought.name} fate={brought.fate} columns={columns.map((c) => c.name)} onClose={() => setBrought(null)} onTake={take} />
      ) : null}
      {brought && !brought.fate.headed ? (
        <AskColumns
          name={brought.name}
          first={brought.fate.first_line ?? []}
          columns={columns.map((c) => [c.name, isPressure(c) ? `${c.name} [${show.symbol}]` : c.name] as const)}
          from={brought.from}
          onClose={() => setBrought(null)}
          onChosen={(names) => void bring(brought.name, brought.blob, brought.at, brought.from, names)}
        />
      ) : null}
    </div>
  );
}

/** What stands against a part at one of its cells, as it was last derived. */
function objectionsByCell(pack: ReturnType<typeof usePack>) {
  const all = pack.against.filter((o) => o.part);
  return (tag: string, column: string) => all.find((o) => o.part === tag && (o.field === column || o.name === column))?.sentence;
}
