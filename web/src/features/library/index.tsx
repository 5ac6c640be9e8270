import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useProject } from "../../api/project";
import { ProjectName } from "../../api/project-name";
import { api, http, isOutrun, type Schema, sentence } from "../../api/client";
import { Button, Dialog, Field, Heading, Lead, Page, Problem, Select, TextInput } from "../../ui";

type Override = Schema["Override"];
type Table = Schema["TableView"];

const options = (project: string) => api.queryOptions("get", "/api/v1/projects/{project}/specification", { params: { path: { project } } });

/** Most rows that are drawn before somebody searches. */
const FEW = 60;

/** The data library: every value with where it comes from, and the project's own in its place, with a reason. */
export function Library() {
  const project = useProject();
  const view = useQuery({ ...options(project?.id ?? ""), enabled: Boolean(project) });
  const [open, setOpen] = useState("materials");
  const [find, setFind] = useState("");
  const [cell, setCell] = useState<{ row: string; column: string; value: string } | null>(null);
  if (view.isError) return <Page>{sentence(view.error)}</Page>;
  if (!view.data) return <Page>opening the library</Page>;
  const table = view.data.tables.find((t) => t.name === open) ?? (view.data.tables[0] as Table);
  const own = view.data.specification.library ?? [];
  const keyOf = (row: string[]) =>
    row
      .slice(0, table.key_columns)
      .filter((c) => c !== "")
      .join(" ");
  const words = find.toLowerCase().split(/\s+/).filter(Boolean);
  const rows = table.rows.filter((r) => words.every((w) => r.join(" ").toLowerCase().includes(w)));
  const shown = rows.slice(0, FEW);
  const overridden = (row: string, column: string) => own.find((o) => o.table === table.name && o.row === row && o.column === column);
  return (
    <Page>
      <ProjectName />
      <Heading>{own.length === 0 ? "The library as it ships." : `The library, ${own.length} ${own.length === 1 ? "value" : "values"} by the project.`}</Heading>
      <Lead>
        Each figure stands as it is published, in the unit of its source. Nothing is extrapolated, and an empty cell means that no value is known. Click a figure to see
        it, or to put the project's own in its place with a reason.
      </Lead>
      <div className="flex flex-wrap items-end gap-4">
        <div className="w-80">
          <Field label="Table">
            {(ids) => <Select {...ids} value={table.name} options={view.data.tables.map((t) => [t.name, t.title] as const)} onChange={(e) => setOpen(e.target.value)} />}
          </Field>
        </div>
        <div className="w-60">
          <Field label="Find a row">{(ids) => <TextInput {...ids} value={find} onChange={(e) => setFind(e.target.value)} />}</Field>
        </div>
      </div>
      <p className="m-0 max-w-[90ch] text-sm text-soft" data-published>
        {table.note}
      </p>
      <div className="overflow-x-auto" tabIndex={0} role="region" data-published aria-label={table.title}>
        <table className="w-full border-collapse text-sm">
          <thead>
            <tr className="border-b border-rule text-soft">
              {table.columns.map((c, i) => (
                <th key={c} scope="col" className="py-1.5 pr-3 align-bottom">
                  {table.heads[i]}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {shown.map((r) => {
              const row = keyOf(r);
              return (
                <tr key={row} className="border-b border-hair">
                  {r.map((text, i) => {
                    const column = table.columns[i] ?? "";
                    const mine = overridden(row, column);
                    return (
                      <td key={column} className={`py-1 pr-3 ${table.figures[i] ? "num" : "whitespace-nowrap"}`}>
                        {table.figures[i] ? (
                          <button
                            type="button"
                            className={`border-0 bg-transparent p-0 ${mine ? "font-bold text-limit" : "text-ink"} hover:underline`}
                            title={mine ? `by the project: ${mine.reason}` : undefined}
                            aria-label={`${column} of ${row}: ${text || "not known"}${mine ? ", by the project" : ""}`}
                            onClick={() => setCell({ row, column, value: text })}
                          >
                            {text || "–"}
                            {mine ? " *" : ""}
                          </button>
                        ) : (
                          text
                        )}
                      </td>
                    );
                  })}
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
      {rows.length > shown.length ? <p className="m-0 text-sm text-soft">{rows.length - shown.length} more rows: type into the search.</p> : null}
      {rows.length === 0 ? <p className="m-0 text-sm text-soft">No row has that in it.</p> : null}
      {own.length ? <p className="m-0 text-sm text-soft">* by the project.</p> : null}
      {cell ? (
        <Value project={project?.id ?? ""} view={view.data} table={table} cell={cell} mine={overridden(cell.row, cell.column)} onClose={() => setCell(null)} />
      ) : null}
    </Page>
  );
}

interface ValueProps {
  project: string;
  view: Schema["SpecificationView"];
  table: Table;
  cell: { row: string; column: string; value: string };
  mine: Override | undefined;
  onClose: () => void;
}

/** One value: where it comes from, and the project's own in its place. */
function Value({ project, view, table, cell, mine, onClose }: ValueProps) {
  const queries = useQueryClient();
  const [value, setValue] = useState(cell.value);
  const [reason, setReason] = useState(mine?.reason ?? "");
  const [source, setSource] = useState(mine?.source ?? "");
  const [problem, setProblem] = useState("");
  const rest = (view.specification.library ?? []).filter((o) => o !== mine);
  const put = async (library: Override[]) => {
    const { data, error } = await http.PUT("/api/v1/projects/{project}/specification", {
      params: { path: { project }, header: { "if-match": `"v${view.version}"` } },
      body: { ...view.specification, library },
    });
    if (!data) {
      setProblem(sentence(error));
      if (isOutrun(error)) void queries.invalidateQueries({ queryKey: options(project).queryKey });
      return;
    }
    queries.setQueryData(options(project).queryKey, data);
    void queries.invalidateQueries({ predicate: (q) => q.queryKey[1] !== "/api/v1/session" });
    onClose();
  };
  return (
    <Dialog open onOpenChange={(o) => !o && onClose()} title={`${table.heads[table.columns.indexOf(cell.column)] ?? cell.column} of ${cell.row}`}>
      <div className="grid gap-3">
        <p className="m-0 text-sm">
          {mine
            ? `The project's figure, from ${mine.source}: ${mine.reason}`
            : "The shipped value: from memory unless the note of its table names a source; not checked against a published edition."}
        </p>
        <Field label="Value, in the unit of the column" hint="Empty: not known; then it is asked for where it is needed.">
          {(ids) => <TextInput {...ids} value={value} inputMode="decimal" disabled={!view.may_change} onChange={(e) => setValue(e.target.value)} />}
        </Field>
        {view.may_change ? (
          <>
            <Field label="Why it differs">{(ids) => <TextInput {...ids} value={reason} onChange={(e) => setReason(e.target.value)} />}</Field>
            <Field label="Where it comes from">{(ids) => <TextInput {...ids} value={source} onChange={(e) => setSource(e.target.value)} />}</Field>
            <Problem>{problem}</Problem>
            <div className="flex gap-3">
              <Button
                kind="main"
                onClick={() => put([...rest, { table: table.name, row: cell.row, column: cell.column, value: value.replace(",", "."), reason, source }])}
              >
                Put the project's value
              </Button>
              {mine ? <Button onClick={() => put(rest)}>Back to the shipped value</Button> : null}
            </div>
          </>
        ) : (
          <p className="m-0 text-sm text-soft">The engineer changes values of the project.</p>
        )}
      </div>
    </Dialog>
  );
}
