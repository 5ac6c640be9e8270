import { useInfiniteQuery } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useState } from "react";
import { http, type Schema, sentence } from "../../api/client";
import type { PacksSearch } from "../../api/packs-search";
import { useChosen, useInHand } from "../../api/project";
import { useMe } from "../../api/session";
import { offeredOrNone } from "../../api/words";
import { Button, Heading, LinkButton, Note, Page, Skeleton, TextInput, usePrinting } from "../../ui";
import { useFigures } from "../../units";

type Line = Schema["PackLine"];
type Sort = NonNullable<PacksSearch["sort"]>;

const COLUMNS: readonly (readonly [string, Sort | null])[] = [
  ["number", "number"],
  ["title", "title"],
  ["basis", null],
  ["planned", "planned"],
  ["state", "state"],
];
/** Height of a row before it is measured, px. */
const ROW = 41;
/** Rows that are drawn beyond the edges of what is seen. */
const BEYOND = 12;
/** After so long without a key what is typed is looked for, ms. */
const TYPED = 180;

/** Pages of what the address asks for. */
function usePages(search: PacksSearch, project: string | undefined) {
  return useInfiniteQuery({
    queryKey: ["get", "/api/v1/packs", { ...search, project }],
    queryFn: async ({ pageParam }) => {
      const { data, error } = await http.GET("/api/v1/packs", { params: { query: { ...search, project, after: pageParam || undefined } } });
      if (!data) throw error;
      return data;
    },
    initialPageParam: "",
    getNextPageParam: (last) => last.next ?? undefined,
    placeholderData: (before) => before,
  });
}

export function Packs() {
  const search = useSearch({ strict: false }) as PacksSearch;
  const navigate = useNavigate();
  const project = useChosen();
  useInHand(project);
  const pages = usePages(search, project?.id);
  const [text, setText] = useState(search.q ?? "");
  const go = (change: Partial<PacksSearch>, replace = false) => void navigate({ to: "/packs", search: (s: PacksSearch) => clean({ ...s, ...change }), replace } as never);
  // what is typed goes into the address once the keys rest; what stands there by another way comes into the field
  useEffect(() => {
    if (text === (search.q ?? "")) return;
    const rest = setTimeout(() => go({ q: text }, true), TYPED);
    return () => clearTimeout(rest);
  });
  useEffect(() => setText(search.q ?? ""), [search.q]);
  const lines = pages.data?.pages.flatMap((p) => p.lines) ?? [];
  const total = pages.data?.pages[0]?.total;
  const sorted = search.sort ?? "number";
  const filtered = Boolean(search.q || search.state || search.owes || search.mine || search.blinds);
  return (
    <Page>
      <div className="flex flex-wrap items-center gap-3">
        <Heading>{heading(search)}</Heading>
        <Makers />
      </div>
      <div className="flex flex-wrap items-center gap-3">
        <div className="w-72 max-w-full">
          <TextInput
            aria-label="Filter by number, title, basis, part, blind or gauge"
            placeholder="number, title, part, blind, gauge"
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
        </div>
        <fieldset className="m-0 flex flex-wrap gap-1 border-0 p-0">
          <legend className="sr-only">State</legend>
          {offeredOrNone("state", "all").map(([key, word]) => (
            <button
              key={key}
              type="button"
              aria-pressed={(search.state ?? "") === key}
              onClick={() => go({ state: key as PacksSearch["state"], owes: undefined, mine: undefined, blinds: undefined })}
              className={`rounded-[3px] border px-2.5 py-1 text-sm ${(search.state ?? "") === key ? "border-ink bg-ink text-paper" : "border-hair bg-sheet text-ink"}`}
            >
              {word}
            </button>
          ))}
        </fieldset>
        <span className="text-sm text-soft" role="status" data-count>
          {pages.data ? (total == null ? `${lines.length}${pages.hasNextPage ? " and more" : ""}` : `${lines.length} of ${total}`) : ""}
        </span>
        {lines.length ? <PrintAll pages={pages} /> : null}
        {search.owes || search.mine || search.blinds ? <Button onClick={() => go({ owes: undefined, mine: undefined, blinds: undefined })}>Show all</Button> : null}
      </div>
      {pages.isError ? <Note kind="stop">{sentence(pages.error)}</Note> : null}
      {pages.isPending && !pages.isError ? <Skeleton /> : null}
      {pages.data && lines.length === 0 && !pages.isPlaceholderData ? (
        <Note kind="plain">
          {filtered
            ? "No pack is so: take a word away, or another state."
            : "A pack is one filling with its parts, gates and registers; a quick test is one body and one page. Make the first with the button above."}
        </Note>
      ) : null}
      {lines.length ? (
        <Table
          lines={lines}
          sorted={sorted}
          down={Boolean(search.down)}
          why={search.owes}
          several={!project}
          more={pages.hasNextPage && !pages.isFetchingNextPage ? () => void pages.fetchNextPage() : null}
          sort={(by) => go({ sort: by === "number" ? undefined : by, down: sorted === by && !search.down ? true : undefined })}
        />
      ) : null}
      {pages.isFetchingNextPage ? <p className="m-0 text-sm text-soft">reading on</p> : null}
    </Page>
  );
}

/** Puts the whole list on paper: what is not read yet is read first. */
function PrintAll({ pages }: { pages: ReturnType<typeof usePages> }) {
  const [asked, setAsked] = useState(false);
  const { hasNextPage, isFetchingNextPage, fetchNextPage } = pages;
  useEffect(() => {
    if (!asked) return;
    if (hasNextPage) {
      if (!isFetchingNextPage) void fetchNextPage().then(({ isError }) => isError && setAsked(false));
      return;
    }
    setAsked(false);
    // once the last page is drawn
    setTimeout(() => window.print(), 0);
  }, [asked, hasNextPage, isFetchingNextPage, fetchNextPage]);
  return (
    <button
      type="button"
      className="border-0 bg-transparent p-0 text-sm text-water underline print:hidden max-[700px]:hidden"
      onClick={() => setAsked(true)}
      disabled={asked}
    >
      {asked ? "reading the whole list" : "print the list"}
    </button>
  );
}

/** An address holds only what somebody asked for. */
function clean(search: PacksSearch): PacksSearch {
  return Object.fromEntries(Object.entries(search).filter(([, v]) => v !== undefined && v !== "" && v !== false)) as PacksSearch;
}

function heading(search: PacksSearch): string {
  if (search.blinds) return "Packs with blinds still in";
  if (search.owes) return search.mine ? "Packs that wait for you" : "Packs that wait for the same thing";
  return search.mine ? "Packs that wait for you" : "Packs and quick tests";
}

function Makers() {
  const { projects } = useMe();
  const pack = projects.some((p) => p.may_make_pack);
  const quick = projects.some((p) => p.may_make_quick);
  return (
    <span className="ml-auto flex flex-wrap gap-2">
      {quick ? (
        <LinkButton to="/quick" kind={pack ? "plain" : "main"}>
          Make a quick test
        </LinkButton>
      ) : null}
      {pack ? (
        <LinkButton to="/packs/new" kind="main">
          Add a pack
        </LinkButton>
      ) : null}
    </span>
  );
}

interface TableProps {
  lines: Line[];
  sorted: Sort;
  down: boolean;
  /** The gate whose sentence stands under the title. */
  why: string | undefined;
  several: boolean;
  more: (() => void) | null;
  sort: (by: Sort) => void;
}

/** Only the rows that are seen are drawn; the next page is read before its end is. */
function Table({ lines, sorted, down, why, several, more, sort }: TableProps) {
  const me = useMe();
  const { symbol } = useFigures();
  const place = `scroll ${location.pathname}${location.search}`;
  const rows = useVirtualizer({
    count: lines.length,
    getScrollElement: () => document.getElementById("main"),
    estimateSize: () => ROW,
    overscan: BEYOND,
    getItemKey: (i) => lines[i]?.id ?? i,
    // whoever comes back stands where they were
    initialOffset: () => Number(sessionStorage.getItem(place) ?? 0),
    onChange: (v) => sessionStorage.setItem(place, String(Math.round(v.scrollOffset ?? 0))),
  });
  const printing = usePrinting();
  const drawn = rows.getVirtualItems();
  const seen = printing ? lines.map((_, index) => ({ index, start: 0, end: rows.getTotalSize() })) : drawn;
  const last = seen.at(-1)?.index ?? 0;
  useEffect(() => {
    if (more && !printing && last >= lines.length - BEYOND) more();
  }, [more, printing, last, lines.length]);
  const above = seen[0]?.start ?? 0;
  const below = rows.getTotalSize() - (seen.at(-1)?.end ?? 0);
  return (
    <table className="w-full border-collapse text-base" aria-rowcount={more ? -1 : lines.length + 1}>
      <thead>
        <tr className="border-b border-rule text-sm text-soft">
          {COLUMNS.map(([name, by]) => (
            <th
              key={name}
              scope="col"
              className={`py-1.5 pr-4 ${name === "basis" ? "max-[900px]:hidden" : name === "planned" ? "max-[600px]:hidden" : ""}`}
              aria-sort={by === sorted ? (down ? "descending" : "ascending") : undefined}
            >
              {by ? (
                <button type="button" className="border-0 bg-transparent p-0 text-left whitespace-nowrap text-soft hover:text-ink" onClick={() => sort(by)}>
                  {name === "planned" ? `planned, ${symbol}` : name}
                  {by === sorted ? (down ? " ↓" : " ↑") : ""}
                </button>
              ) : (
                name
              )}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {above > 0 ? <tr aria-hidden style={{ height: above }} /> : null}
        {seen.map(({ index }) => {
          const line = lines[index];
          return line ? <Row key={line.id} line={line} why={why} several={several && me.projects.length > 1} index={index} measure={rows.measureElement} /> : null;
        })}
        {below > 0 ? <tr aria-hidden style={{ height: below }} /> : null}
      </tbody>
    </table>
  );
}

interface RowProps {
  line: Line;
  why: string | undefined;
  several: boolean;
  index: number;
  measure: (row: HTMLTableRowElement | null) => void;
}

function Row({ line: p, why, several, index, measure }: RowProps) {
  const show = useFigures();
  const reason = why ? p.blockers.filter((b) => b.rule === why) : [];
  return (
    <tr ref={measure} data-index={index} aria-rowindex={index + 2} className="border-b border-hair hover:bg-sheet">
      <td className="num py-2 pr-4 align-top font-semibold">{p.number}</td>
      <td className="py-2 pr-4 align-top">
        <Link to={`/tests/${p.id}/${p.form === "quick" ? "page" : (reason[0]?.step ?? p.step)}` as "/"} className="text-ink">
          {p.title}
        </Link>
        {several ? <span className="ml-2 text-sm text-soft">{p.project_name}</span> : null}
        {reason.map((b) => (
          <span key={b.sentence} className="mt-0.5 block max-w-[90ch] text-sm text-limit">
            {b.sentence} <span className="text-soft">{p.form === "quick" ? "Whoever made it clears it." : `The ${b.who} clears it.`}</span>
          </span>
        ))}
      </td>
      <td className="py-2 pr-4 align-top text-sm text-soft max-[900px]:hidden">{p.basis}</td>
      <td className="num py-2 pr-4 align-top max-[600px]:hidden">{p.planned_pa ? show.freeN(p.planned_pa, "up") : "none"}</td>
      <td
        className={`py-2 align-top text-sm ${p.renewing ? "text-soft" : p.state_kind === "blocked" ? "text-limit" : p.state_kind === "running" ? "font-semibold text-water" : "text-soft"}`}
      >
        {p.state}
        {p.renewing && p.state !== "being renewed" ? <span className="text-soft">, being renewed</span> : null}
      </td>
    </tr>
  );
}
