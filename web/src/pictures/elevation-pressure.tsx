import { scaleLinear } from "d3-scale";
import { useSheet } from "./sheet";
import { type PointerEvent, useMemo, useRef } from "react";
import type { Derived, Pack } from "../api/client";
import { emptyWindow } from "../api/window";
import { inUnit, toPa, useFigures } from "../units";

const H = 330;
const LEFT = 58;
const RIGHT = 92;
const TOP = 14;
const BOTTOM = 34;
/** Most parts that are drawn with a name; the others are drawn without. */
const NAMED = 9;

/** From so many parts on, those without a name are drawn in a few strokes together. */
const MANY = 150;

interface Props {
  pack: Pack;
  derived: Derived;
  /** Gauge reading of the column, Pa. */
  gaugePa: number;
  onGauge: (pa: number) => void;
}

/** Height upward, pressure across: each part from what it must see to what it can bear, and the one column that must pass through all. */
export function ElevationPressure({ pack, derived, gaugePa, onGauge }: Props) {
  const W = useSheet(860, 420);
  const show = useFigures(pack);
  const unit = show.unit;
  const svg = useRef<SVGSVGElement>(null);
  const parts = derived.parts;
  const slope = derived.column_pa_per_m;
  const zg = pack.gauge.elevation_m;
  // gas above its water line, water below it
  const line_m = derived.water_below?.line_m;
  const head = (z: number) => (line_m == null ? slope * z : slope * Math.max(z, line_m) + (derived.water_below?.density_kg_m3 ?? 0) * 9.80665 * Math.min(z - line_m, 0));
  const at = (z: number, gauge: number) => gauge + head(zg) - head(z);
  const heights = [...parts.map((p) => p.elevation_m), zg];
  const zLow = heights.reduce((a, b) => Math.min(a, b));
  const zHigh = heights.reduce((a, b) => Math.max(a, b));
  const zPad = Math.max(0.6, (zHigh - zLow) * 0.14);
  const y = scaleLinear()
    .domain([zLow - zPad, zHigh + zPad])
    .range([H - BOTTOM, TOP]);
  const span = Math.max(Math.min(Math.abs(derived.upper_pa - derived.lower_pa), derived.lower_pa * 0.6), slope * (zHigh - zLow), derived.lower_pa * 0.08);
  // the scale stands still while the column is dragged
  const planned = (emptyWindow(derived) ? null : derived.day?.planned_pa) ?? derived.lower_pa;
  const xLow = Math.min(derived.required_pa, at(zHigh, planned), derived.upper_pa) - span * 0.35;
  const xHigh = Math.max(Math.min(derived.upper_pa, derived.lower_pa * 1.6), derived.lower_pa, at(zLow, planned)) + span * 0.55;
  const x = scaleLinear()
    .domain([inUnit(Math.max(0, xLow), unit), inUnit(xHigh, unit)])
    .range([LEFT, W - RIGHT]);
  const length = show.unitFor("length_m");
  const heightTicks = scaleLinear()
    .domain([(zLow - zPad) * length.factor, (zHigh + zPad) * length.factor])
    .ticks(5)
    .map((t) => t / length.factor);
  const px = (pa: number) => x(inUnit(pa, unit));
  const clamp = (v: number) => Math.min(W - RIGHT, Math.max(LEFT, v));
  const [z0, z1] = y.domain() as [number, number];
  const bends = [z0, ...(line_m != null && line_m > z0 && line_m < z1 ? [line_m] : []), z1];
  const line = (gauge: number) => bends.map((z) => `${px(at(z, gauge))},${y(z)}`).join(" ");
  const band = derived.conflict ? "" : `${line(derived.lower_pa)} ${line(derived.upper_pa).split(" ").reverse().join(" ")}`;
  const missed = (p: (typeof parts)[number]) => gaugePa < p.gauge_lower_pa - 1 || gaugePa > p.gauge_upper_pa + 1;
  const governs = (tag: string) => tag === derived.lower_part || tag === derived.upper_part;
  const many = parts.length > MANY;
  const lost = parts.filter(missed);
  // those that govern come first, then those that are missed; of few parts also the others
  const named = new Set([...parts.filter((p) => governs(p.tag)), ...lost.slice(0, NAMED), ...(many ? [] : parts)].map((p) => p.tag).slice(0, NAMED + 2));

  const drag = (e: PointerEvent) => {
    if (e.buttons !== 1 || !svg.current) return;
    const box = svg.current.getBoundingClientRect();
    const ux = ((e.clientX - box.left) / box.width) * W;
    const uy = ((e.clientY - box.top) / box.height) * H;
    const z = y.invert(Math.min(H - BOTTOM, Math.max(TOP, uy)));
    const p = toPa(x.invert(ux), unit);
    const gauge = p - at(z, 0);
    const step = pack.gauge.division_pa;
    onGauge(Math.max(0, Math.round(gauge / step) * step));
  };
  const keys: Record<string, number> = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1, PageUp: 10, PageDown: -10 };
  const labels = placeLabels(parts.filter((p) => named.has(p.tag)).map((p) => ({ tag: p.tag, y: y(p.elevation_m) })));

  const nameAt = (p: (typeof parts)[number]) => Math.min(clamp(px(at(p.elevation_m, gaugePa))) + 16, W - RIGHT - (missed(p) ? 190 : 150));
  const gauge = placeGauge(
    px(gaugePa),
    y(zg),
    pack.gauge.tag.length,
    parts
      .filter((p) => named.has(p.tag))
      .flatMap((p) => {
        const label = labels.get(p.tag) ?? 0;
        const limit = clamp(px(p.limit_pa)) + (p.limit_pa < p.required_pa ? -57 : 7);
        return [
          { x0: nameAt(p), x1: nameAt(p) + (p.tag.length + (missed(p) ? 8 : 0)) * LETTER, y: label - 7 },
          { x0: limit, x1: limit + 50, y: label + 4 },
        ];
      }),
  );

  return (
    <div
      className="touch-none select-none"
      role="slider"
      tabIndex={0}
      aria-label="Gauge reading of the water column"
      aria-valuemin={0}
      aria-valuemax={Math.round(inUnit(xHigh, unit))}
      aria-valuenow={Number(show.n(gaugePa).replace("−", "-"))}
      aria-valuetext={`${show.n(gaugePa)} ${show.symbol}; ${
        lost.length === 0
          ? "every part is between its marks"
          : `missed: ${lost
              .slice(0, 6)
              .map((p) => p.tag)
              .join(", ")}`
      }`}
      onPointerDown={drag}
      onPointerMove={drag}
      onKeyDown={(e) => {
        const by = keys[e.key];
        if (by === undefined) return;
        e.preventDefault();
        onGauge(Math.max(0, gaugePa + by * pack.gauge.division_pa));
      }}
    >
      <svg ref={svg} viewBox={`0 0 ${W} ${H}`} className="block w-full" aria-hidden="true">
        <rect x={LEFT} y={TOP} width={W - LEFT - RIGHT} height={H - TOP - BOTTOM} className="fill-chart" />
        {x.ticks(W < 600 ? 4 : 8).map((t) => (
          <g key={`x${t}`}>
            <line x1={x(t)} x2={x(t)} y1={TOP} y2={H - BOTTOM} className="stroke-grid" />
            <text x={x(t)} y={H - BOTTOM + 17} textAnchor="middle" className="fill-soft font-mono text-xs">
              {t}
            </text>
          </g>
        ))}
        {heightTicks.map((t) => (
          <g key={`y${t}`}>
            <line x1={LEFT} x2={W - RIGHT} y1={y(t)} y2={y(t)} className="stroke-grid" />
            <text x={LEFT - 8} y={y(t) + 4} textAnchor="end" className="fill-soft font-mono text-xs">
              {show.height(t)}
            </text>
          </g>
        ))}
        <text x={W - RIGHT} y={H - 4} textAnchor="end" className="fill-soft text-xs">
          pressure at that height, {show.symbol}
        </text>
        <clipPath id="plot">
          <rect x={LEFT} y={TOP} width={W - LEFT - RIGHT} height={H - TOP - BOTTOM} />
        </clipPath>
        {band ? <polygon points={band} className="fill-wash" clipPath="url(#plot)" /> : null}
        {many ? <Crowd parts={parts} lost={lost} y={y} px={(pa) => clamp(px(pa))} scale={`${x.domain()} ${y.domain()}`} /> : null}
        {(many ? parts.filter((p) => named.has(p.tag)) : parts).map((p) => {
          const beyond = px(p.limit_pa) > W - RIGHT;
          const strong = governs(p.tag) || missed(p);
          const cls = missed(p) ? "stroke-danger" : strong ? "stroke-ink" : "stroke-rule";
          const py = y(p.elevation_m);
          const label = labels.get(p.tag);
          return (
            <g key={p.tag} data-part={p.tag} data-missed={missed(p)}>
              <line
                x1={clamp(px(p.required_pa))}
                x2={clamp(px(p.limit_pa))}
                y1={py}
                y2={py}
                className={cls}
                strokeWidth={strong ? 3 : 1.6}
                strokeDasharray={missed(p) ? "9 4" : undefined}
              />
              <line x1={clamp(px(p.required_pa))} x2={clamp(px(p.required_pa))} y1={py - 7} y2={py + 7} className="stroke-ink" strokeWidth="2" />
              {beyond ? (
                <text x={W - RIGHT + 6} y={(label ?? py) + 4} className="fill-soft text-xs">
                  {named.has(p.tag) ? `to ${show.n(p.limit_pa, "down")}` : ""}
                </text>
              ) : (
                <>
                  <line x1={clamp(px(p.limit_pa))} x2={clamp(px(p.limit_pa))} y1={py - 8} y2={py + 8} className="stroke-danger" strokeWidth="3" />
                  {named.has(p.tag) ? (
                    <text
                      x={clamp(px(p.limit_pa)) + (p.limit_pa < p.required_pa ? -7 : 7)}
                      y={(label ?? py) + 4}
                      textAnchor={p.limit_pa < p.required_pa ? "end" : "start"}
                      className="fill-danger font-mono text-xs"
                    >
                      {show.n(p.limit_pa, "down")}
                    </text>
                  ) : null}
                </>
              )}
            </g>
          );
        })}
        <polyline points={line(gaugePa)} className="stroke-water" strokeWidth="3" fill="none" clipPath="url(#plot)" />
        {parts
          .filter((p) => named.has(p.tag))
          .map((p) => {
            return (
              <text
                key={p.tag}
                x={nameAt(p)}
                y={(labels.get(p.tag) ?? 0) - 7}
                className={`text-sm ${missed(p) ? "fill-danger font-semibold" : governs(p.tag) ? "fill-ink font-semibold" : "fill-ink"}`}
                style={{ paintOrder: "stroke", stroke: "var(--color-chart)", strokeWidth: 4 }}
              >
                {missed(p) ? `${p.tag}: missed` : p.tag}
              </text>
            );
          })}
        <circle cx={px(gaugePa)} cy={y(zg)} r="7" className="fill-sheet stroke-water" strokeWidth="3" />
        <text x={gauge.x} y={gauge.y} className="fill-water text-sm font-semibold" style={{ paintOrder: "stroke", stroke: "var(--color-chart)", strokeWidth: 4 }}>
          {pack.gauge.tag}
        </text>
      </svg>
    </div>
  );
}

/** Width of a letter of a name. */
const LETTER = 7.6;

interface Words {
  x0: number;
  x1: number;
  y: number;
}

/** Where the gauge's name stands: below its circle to the left, or the first place around it where it covers nothing. */
function placeGauge(x: number, y: number, letters: number, taken: Words[]) {
  const width = letters * LETTER;
  const places = [20, -14, 36, -30, 52, -46].flatMap((dy) => [
    { x: x - 12 - width, y: y + dy },
    { x: x + 12, y: y + dy },
  ]);
  const covers = (at: { x: number; y: number }) => taken.some((t) => t.x0 < at.x + width && t.x1 > at.x && Math.abs(t.y - at.y) < 15);
  return places.find((at) => at.y < H - BOTTOM + 4 && at.y > TOP + 8 && !covers(at)) ?? { x: x - 12 - width, y: y + 20 };
}

/** Heights for labels, 17 units apart at least. */
function placeLabels(wanted: { tag: string; y: number }[]): Map<string, number> {
  const sorted = [...wanted].sort((a, b) => a.y - b.y);
  let before = Number.NEGATIVE_INFINITY;
  return new Map(
    sorted.map((w) => {
      before = Math.max(w.y, before + 17);
      return [w.tag, before];
    }),
  );
}

interface CrowdProps {
  parts: Derived["parts"];
  /** Those that the column misses. */
  lost: Derived["parts"];
  y: (z: number) => number;
  px: (pa: number) => number;
  /** Changes when the scales do. */
  scale: string;
}

/** Thousands of parts in three strokes: what they must see to what they can bear, the limits, and those that are missed. */
function Crowd({ parts, lost, y, px, scale }: CrowdProps) {
  const bar = (p: CrowdProps["parts"][number]) => `M${px(p.required_pa).toFixed(1)} ${y(p.elevation_m).toFixed(1)}H${px(p.limit_pa).toFixed(1)}`;
  const mark = (p: CrowdProps["parts"][number]) => `M${px(p.limit_pa).toFixed(1)} ${(y(p.elevation_m) - 3).toFixed(1)}v6`;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the scales are told apart by their domains
  const still = useMemo(() => [parts.map(bar).join(""), parts.map(mark).join("")], [parts, scale]);
  return (
    <g data-crowd={parts.length}>
      <path d={still[0]} className="stroke-soft" strokeWidth="0.7" strokeOpacity={Math.max(0.06, Math.min(1, 120 / parts.length))} fill="none" />
      <path d={still[1]} className="stroke-danger" strokeWidth="1.2" strokeOpacity="0.5" fill="none" />
      <path d={lost.map(bar).join("")} className="stroke-danger" strokeWidth="1.2" fill="none" strokeDasharray="9 4" />
    </g>
  );
}
