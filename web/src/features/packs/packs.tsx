import { offeredOrNone } from "../../api/words";
import { Link } from "@tanstack/react-router";
import {
  columnFilteringFeature,
  createColumnHelper,
  createFilteredRowModel,
  createSortedRowModel,
  globalFilteringFeature,
  rowSortingFeature,
  sortFn_alphanumeric,
  sortFn_basic,
  tableFeatures,
  useTable,
} from "@tanstack/react-table";
import { useMemo, useState } from "react";
import { api, type Schema, sentence } from "../../api/client";
import { useMe } from "../../api/session";
import { Heading, LinkButton, Note, Page, TextInput } from "../../ui";
import { useFigures } from "../../units";

type Line = Schema["PackLine"];
const features = tableFeatures({
  columnFilteringFeature,
  globalFilteringFeature,
  rowSortingFeature,
  filteredRowModel: createFilteredRowModel(),
  sortedRowModel: createSortedRowModel(),
  sortFns: { alphanumeric: sortFn_alphanumeric, basic: sortFn_basic },
});
const column = createColumnHelper<typeof features, Line>();
const columns = column.columns([
  column.accessor("number", { header: "number", sortFn: "alphanumeric" }),
  column.accessor("title", { header: "title", sortFn: "alphanumeric" }),
  column.accessor("basis", { header: "basis", sortFn: "alphanumeric" }),
  column.accessor((p) => p.planned_pa ?? 0, { id: "planned", header: "planned", sortFn: "basic" }),
  column.accessor("state", { header: "state", sortFn: "alphanumeric" }),
]);
/** True when every word typed stands somewhere in the line. */
const holds = (p: Line, typed: string) =>
  typed
    .toLowerCase()
    .split(/\s+/)
    .every((w) => `${p.number} ${p.title} ${p.basis} ${p.state}`.toLowerCase().includes(w));

/** Where a test is picked up again. */
const STEP: Record<Schema["StateKind"], string> = { blocked: "ready", ready: "ready", running: "hold", judged: "judge", signed: "sign" };

export function Packs() {
  const me = useMe();
  const show = useFigures();
  const { symbol } = show;
  const packs = api.useQuery("get", "/api/v1/packs");
  const [text, setText] = useState("");
  const [state, setState] = useState("");
  const data = useMemo(() => (packs.data ?? []).filter((p) => !state || p.state_kind === state), [packs.data, state]);
  const table = useTable({
    features,
    columns,
    data,
    state: { globalFilter: text },
    onGlobalFilterChange: setText,
    globalFilterFn: (row, _, typed) => holds(row.original, String(typed)),
    getColumnCanGlobalFilter: () => true,
    initialState: { sorting: [{ id: "number", desc: false }] },
    getRowId: (p) => p.id,
    enableSortingRemoval: false,
  });
  const shown = table.getRowModel().rows;
  if (packs.isError)
    return (
      <Page>
        <Note kind="stop">{sentence(packs.error)}</Note>
      </Page>
    );
  return (
    <Page>
      <div className="flex flex-wrap items-center gap-3">
        <Heading>Packs and quick tests</Heading>
        <span className="ml-auto flex gap-2">
          {["engineer", "supervisor", "owner"].includes(me.role) ? (
            <LinkButton to="/quick" kind={me.role === "engineer" ? "plain" : "main"}>
              Make a quick test
            </LinkButton>
          ) : null}
          {me.role === "engineer" ? (
            <LinkButton to="/packs/new" kind="main">
              Add a pack
            </LinkButton>
          ) : null}
        </span>
      </div>
      <div className="flex flex-wrap items-center gap-3">
        <div className="w-72">
          <TextInput
            aria-label="Filter by number, title, basis or state"
            placeholder="number, title, basis, state"
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
        </div>
        <fieldset className="m-0 flex gap-1 border-0 p-0">
          <legend className="sr-only">State</legend>
          {offeredOrNone("state", "all").map(([key, word]) => (
            <button
              key={key}
              type="button"
              aria-pressed={state === key}
              onClick={() => setState(key)}
              className={`rounded-[3px] border px-2.5 py-1 text-sm ${state === key ? "border-ink bg-ink text-paper" : "border-hair bg-sheet text-ink"}`}
            >
              {word}
            </button>
          ))}
        </fieldset>
        <span className="text-sm text-soft">
          {shown.length} of {packs.data?.length ?? 0}
        </span>
      </div>
      {packs.data?.length === 0 ? (
        <Note kind="plain">A pack is one filling with its parts, gates and registers; a quick test is one body and one page. Make the first with the button above.</Note>
      ) : (
        <table className="w-full border-collapse text-base">
          <thead>
            <tr className="border-b border-rule text-sm text-soft">
              {table.getFlatHeaders().map((h) => {
                const sorted = h.column.getIsSorted();
                return (
                  <th key={h.id} scope="col" className="py-1.5 pr-4" aria-sort={sorted ? (sorted === "desc" ? "descending" : "ascending") : undefined}>
                    <button type="button" className="border-0 bg-transparent p-0 text-soft hover:text-ink" onClick={h.column.getToggleSortingHandler()}>
                      <table.FlexRender header={h} />
                      {h.id === "planned" ? `, ${symbol}` : ""}
                      {sorted ? (sorted === "desc" ? " ↓" : " ↑") : ""}
                    </button>
                  </th>
                );
              })}
            </tr>
          </thead>
          <tbody>
            {shown.map(({ original: p }) => (
              <tr key={p.id} className="border-b border-hair hover:bg-sheet">
                <td className="num py-2 pr-4 font-semibold">{p.number}</td>
                <td className="pr-4">
                  <Link to={`/tests/${p.id}/${STEP[p.state_kind]}` as "/"} className="text-ink">
                    {p.title}
                  </Link>
                </td>
                <td className="pr-4 text-sm text-soft">{p.basis}</td>
                <td className="num pr-4">{p.planned_pa ? show.freeN(p.planned_pa, "up") : "none"}</td>
                <td className={`text-sm ${p.state_kind === "blocked" ? "text-limit" : p.state_kind === "running" ? "font-semibold text-water" : "text-soft"}`}>
                  {p.state}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </Page>
  );
}
