import { useMemo, useRef, useState } from "react";
import type { Derived } from "../../api/client";
import { usePack } from "../../api/pack";
import { Section } from "../../ui";
import { Why } from "../../why";
import { Gap, useSeenRows } from "./seen-rows";
import { useFigures } from "../../units";

type Part = Derived["parts"][number];

const ORDERS = [
  ["governs", "who governs"],
  ["room", "least room"],
  ["height", "height"],
  ["tag", "name"],
] as const;
type Order = (typeof ORDERS)[number][0];

const ROW = 33;
const COLUMNS = ["part", "height", "line rated", "must see", "can bear", "at the gauge", "to spare", "limit set by"];

function sorted(parts: readonly Part[], order: Order, lower: number, upper: number, gauge: number): Part[] {
  const governs = (p: Part) => Math.min(lower - p.gauge_lower_pa, p.gauge_upper_pa - upper);
  const room = (p: Part) => Math.min(gauge - p.gauge_lower_pa, p.gauge_upper_pa - gauge);
  const by: Record<Order, (a: Part, b: Part) => number> = {
    governs: (a, b) => governs(a) - governs(b),
    room: (a, b) => room(a) - room(b),
    height: (a, b) => b.elevation_m - a.elevation_m,
    tag: (a, b) => a.tag.localeCompare(b.tag, undefined, { numeric: true }),
  };
  return [...parts].sort(by[order]);
}

/** Every part with its bounds, its distance from both at the reading shown above, and what sets its limit. Thousands stay quick: only what is seen is drawn. */
export function PartsTable({ derived, gaugePa, edit }: { derived: Derived; gaugePa: number; edit: React.ReactNode }) {
  const pack = usePack();
  const show = useFigures(pack);
  const { symbol } = show;
  const [order, setOrder] = useState<Order>("governs");
  // only the order by room follows the reading
  const at = order === "room" ? gaugePa : 0;
  const rows = useMemo(() => sorted(derived.parts, order, derived.lower_pa, derived.upper_pa, at), [derived, order, at]);
  // only where lines of several conditions are tested together
  const lines = derived.parts.some((p) => p.design_pa != null);
  const columns = COLUMNS.filter((c) => lines || c !== "line rated");
  const box = useRef<HTMLDivElement>(null);
  const seen = useSeenRows(rows.length, box, ROW);
  return (
    <Section title={`Parts, ${derived.parts.length} (${symbol})`} aside={edit}>
      <div className="flex items-center gap-2 text-sm">
        <span className="text-soft">first:</span>
        {ORDERS.map(([key, words]) => (
          <button
            key={key}
            type="button"
            aria-pressed={order === key}
            onClick={() => setOrder(key)}
            className={`border-0 border-b-2 bg-transparent px-1 py-0.5 ${order === key ? "border-water font-semibold text-ink" : "border-transparent text-soft hover:text-ink"}`}
          >
            {words}
          </button>
        ))}
      </div>
      <div ref={box} tabIndex={0} role="region" aria-label="Parts" className="max-h-[460px] min-w-0 overflow-auto">
        <table className="w-full min-w-[54rem] border-collapse text-sm" aria-rowcount={rows.length + 1}>
          <thead className="sticky top-0 bg-paper">
            <tr className="border-b border-rule text-soft">
              {columns.map((c) => (
                <th key={c} scope="col" className="py-1.5 pr-3">
                  {c}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            <Gap height={seen.before} columns={columns.length} />
            {seen.rows.map((r) => {
              const p = rows[r] as Part;
              const low = gaugePa - p.gauge_lower_pa;
              const high = p.gauge_upper_pa - gaugePa;
              const governs = p.tag === derived.lower_part || p.tag === derived.upper_part;
              return (
                <tr key={p.tag} aria-rowindex={r + 2} data-row={p.tag} className={`border-b border-hair ${governs ? "font-semibold" : ""}`} style={{ height: ROW }}>
                  <td className="max-w-[14rem] truncate pr-3" title={p.tag}>
                    {p.tag} <span className="font-normal text-soft">{p.kind}</span>
                  </td>
                  <td className="num pr-3">{show.height(p.elevation_m)}</td>
                  {lines ? <td className="num pr-3">{p.design_pa == null ? "" : show.freeN(p.design_pa)}</td> : null}
                  <td className="num pr-3">{show.freeN(p.required_pa, "up")}</td>
                  <td className="num pr-3">{show.freeN(p.limit_pa, "down")}</td>
                  <td className="num pr-3">
                    {show.n(p.gauge_lower_pa, "up")} … {show.n(p.gauge_upper_pa, "down")}
                  </td>
                  <td className={`num pr-3 ${low < -1 || high < -1 ? "font-semibold text-danger" : ""}`}>
                    {show.n(low, "down")} / {show.n(high, "down")}
                  </td>
                  <td className="pr-3 font-normal whitespace-nowrap" title={p.limit_words}>
                    {p.limit_words} <Why figure={`part:${p.tag}`} />
                  </td>
                </tr>
              );
            })}
            <Gap height={seen.after} columns={columns.length} />
          </tbody>
        </table>
      </div>
      <p className="m-0 text-xs text-soft">To spare at the reading shown above: over what the part must see / under what it can bear.</p>
    </Section>
  );
}
