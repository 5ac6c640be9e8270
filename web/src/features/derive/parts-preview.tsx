import { useState } from "react";
import type { GridRow, Schema } from "../../api/client";
import { Button, Dialog, Field, Select } from "../../ui";

type Fate = Schema["PartsFate"];

interface PreviewProps {
  name: string;
  fate: Fate;
  columns: readonly string[];
  onClose: () => void;
  onTake: (rows: GridRow[]) => void;
}

/** Each row of a file or of what was pasted with its fate, before anything is taken. */
export function Preview({ name, fate, columns, onClose, onTake }: PreviewProps) {
  const shown = columns.filter((c) => fate.rows.some((r) => (r.row.typed[c] ?? "") !== ""));
  return (
    <Dialog
      open
      onOpenChange={(o) => !o && onClose()}
      title={`${name}: ${fate.good} of ${fate.rows.length} rows good`}
      description={fate.ignored_columns.length ? `Columns that mean nothing here: ${fate.ignored_columns.join(", ")}.` : undefined}
      wide
    >
      {fate.notes?.length ? (
        <ul className="mt-0 mb-3 grid max-h-32 list-none gap-1 overflow-auto p-0 text-sm text-limit">
          {fate.notes.map((n) => (
            <li key={n}>{n}</li>
          ))}
        </ul>
      ) : null}
      <div className="max-h-[50vh] overflow-auto" tabIndex={0} role="region" aria-label="Rows of the file">
        <table className="w-full border-collapse text-sm">
          <thead>
            <tr className="border-b border-rule text-soft">
              <th scope="col" className="pr-2">
                line
              </th>
              {shown.map((c) => (
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
                {shown.map((c) => (
                  <td key={c} className="pr-2 font-mono">
                    {r.row.typed[c] ?? ""}
                  </td>
                ))}
                <td>{r.part ? "good" : r.problems.map((p) => `${p.column}: ${p.sentence}`).join(" ")}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <div className="mt-4 flex gap-3">
        <Button kind="main" onClick={() => onTake(fate.rows.map((r) => r.row))}>
          {fate.good === fate.rows.length ? "Take these rows" : "Take them to the grid and mend them there"}
        </Button>
        <Button onClick={onClose}>Leave it</Button>
      </div>
    </Dialog>
  );
}

interface AskProps {
  name: string;
  /** The first line, which names no columns. */
  first: readonly string[];
  /** Name, and name with its unit, of each column in the grid's order. */
  columns: readonly (readonly [name: string, label: string])[];
  /** The column from which they are offered in order. */
  from: string;
  onClose: () => void;
  onChosen: (names: string[]) => void;
}

/** What each column is, where the first line does not say so: nothing is guessed behind anybody's back. */
export function AskColumns({ name, first, columns, from, onClose, onChosen }: AskProps) {
  const start = Math.max(
    0,
    columns.findIndex(([c]) => c === from),
  );
  const [chosen, setChosen] = useState<string[]>(() => first.map((_, i) => columns[start + i]?.[1] ?? ""));
  const twice = chosen.filter((c, i) => c !== "" && chosen.indexOf(c) !== i);
  const none = chosen.every((c) => c === "");
  return (
    <Dialog
      open
      onOpenChange={(o) => !o && onClose()}
      title={`${name}: which column is which?`}
      description="Its first line names no columns. Say what each holds; a column that means nothing here is left out."
      wide
    >
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (twice.length === 0 && !none) onChosen(chosen);
        }}
      >
        <div className="grid max-h-[50vh] grid-cols-[repeat(auto-fill,minmax(11rem,1fr))] gap-3 overflow-auto p-1">
          {first.map((cell, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: the cells of one line never move
            <Field key={i} label={cell.trim() === "" ? `column ${i + 1}, empty` : `“${cell}”`} error={twice.includes(chosen[i] ?? "") ? "Chosen twice." : undefined}>
              {(ids) => (
                <Select
                  {...ids}
                  value={chosen[i] ?? ""}
                  options={[["", "left out"], ...columns.map(([, label]) => [label, label] as const)]}
                  onChange={(e) => setChosen(chosen.map((c, j) => (j === i ? e.target.value : c)))}
                />
              )}
            </Field>
          ))}
        </div>
        <div className="mt-4 flex gap-3">
          <Button kind="main" type="submit" disabled={twice.length > 0 || none}>
            Read it so
          </Button>
          <Button onClick={onClose}>Leave it</Button>
        </div>
      </form>
    </Dialog>
  );
}
