import { scaleLinear } from "d3-scale";
import { area, line } from "d3-shape";
import { type PointerEvent, useState } from "react";
import type { Schema } from "../api/client";
import { timeTicks } from "./time-ticks";
import { decimalsFor, figure, inUnit, SYMBOL, type Unit } from "../units/pressure";

type HoldView = Schema["HoldView"];
type Judgement = Schema["Judgement"];
type Point = Schema["Point"];

const W = 880;
const H = 430;
const LEFT = 64;
const RIGHT = 16;
const P_TOP = 26;
const P_BOTTOM = 300;
const T_TOP = 326;
const T_BOTTOM = 404;

const EVENT_WORDS: Record<Schema["RunEventKind"], string> = {
  filled: "filled",
  step_reached: "step",
  pump_off: "pump off",
  look_done: "look done",
  leak_seen: "leak seen",
  repump: "repump",
  bleed: "bleed",
  hold_ended: "hold ended",
  released: "released",
  vent_opened: "vent open",
  drained: "drained",
  pump_started: "pump on",
  noted: "noted",
};

interface Props {
  view: HoldView;
  judgement?: Judgement | null;
  unit: Unit;
  divisionPa: number;
  /** True shows the whole run, false the hold and its last few per cent. */
  whole: boolean;
}

/** Time as the site's clock shows it. */
function clock(view: HoldView, seconds: number): string {
  return new Date(Date.parse(view.released_at) + seconds * 1000).toISOString().slice(11, 16);
}

/** Pressure against time with what temperature alone would do, and temperatures beneath on the same axis. */
export function HoldChart({ view, judgement, unit, divisionPa, whole }: Props) {
  const [cursor, setCursor] = useState<number | null>(null);
  const hold = view.hold ?? null;
  const first = view.pressure[0]?.t_s ?? 0;
  const last = Math.max(view.pressure.at(-1)?.t_s ?? 1, first + 60);
  const holdSpan = hold ? Math.max(60, hold.end_s - hold.start_s) : 0;
  const t0 = whole || !hold ? Math.min(first, ...view.events.map((e) => e.t_s)) : hold.start_s - holdSpan * 0.08;
  const t1 = whole || !hold ? last : hold.end_s + holdSpan * 0.06;
  const x = scaleLinear()
    .domain([t0, t1])
    .range([LEFT, W - RIGHT]);
  const seen = view.pressure.filter((p) => p.t_s >= t0 && p.t_s <= t1);
  const inHold = hold ? seen.filter((p) => p.t_s >= hold.start_s - 1 && p.t_s <= hold.end_s + 1) : seen;
  const values = (whole || inHold.length === 0 ? seen : inHold).map((p) => p.value);
  const band = judgement?.found.chart ?? [];
  if (!whole) for (const c of band) values.push(c.without_loss_pa + c.half_width_95_pa, c.without_loss_pa - c.half_width_95_pa);
  const low = Math.min(...values);
  const high = Math.max(...values);
  const pad = Math.max((high - low) * 0.15, divisionPa * 4);
  const bounds: { pa: number; word: string; cls: string; dash?: string }[] = [
    { pa: view.lower_pa, word: "lower", cls: "ink" },
    { pa: view.upper_pa, word: "upper", cls: "danger", dash: "8 3" },
  ];
  // the lower bound is drawn when it is near enough to matter
  const reach = (high - low + 2 * pad) * 1.2;
  const yLow = Math.min(low - pad, view.lower_pa > low - reach ? view.lower_pa - pad * 0.4 : Number.POSITIVE_INFINITY);
  const y = scaleLinear()
    .domain([inUnit(whole ? Math.min(0, low) : yLow, unit), inUnit(high + pad, unit)])
    .range([P_BOTTOM, P_TOP]);
  const py = (pa: number) => y(inUnit(pa, unit));
  const temps = view.temperature.filter((p) => p.t_s >= t0 && p.t_s <= t1);
  const tv = temps.map((p) => p.value);
  const tMid = tv.length ? (Math.min(...tv) + Math.max(...tv)) / 2 : 15;
  const tHalf = Math.max(0.05, tv.length ? (Math.max(...tv) - Math.min(...tv)) * 0.7 : 1);
  const ty = scaleLinear()
    .domain([tMid - tHalf, tMid + tHalf])
    .range([T_BOTTOM, T_TOP]);
  const path = line<Point>()
    .x((p) => x(p.t_s))
    .y((p) => py(p.value));
  const tPath = line<Point>()
    .x((p) => x(p.t_s))
    .y((p) => ty(p.value));
  const ribbon = area<(typeof band)[number]>()
    .x((c) => x(c.t_s))
    .y0((c) => py(c.without_loss_pa - c.half_width_95_pa))
    .y1((c) => py(c.without_loss_pa + c.half_width_95_pa));
  const decimals = Math.max(2, decimalsFor(divisionPa, unit));
  const near =
    cursor === null ? undefined : seen.reduce<Point | undefined>((best, p) => (best && Math.abs(best.t_s - cursor) <= Math.abs(p.t_s - cursor) ? best : p), undefined);
  const nearT = near
    ? temps.reduce<Point | undefined>((best, p) => (best && Math.abs(best.t_s - near.t_s) <= Math.abs(p.t_s - near.t_s) ? best : p), undefined)
    : undefined;
  const move = (e: PointerEvent<SVGSVGElement>) => {
    const box = e.currentTarget.getBoundingClientRect();
    setCursor(x.invert(((e.clientX - box.left) / box.width) * W));
  };
  const times = timeTicks(t0, t1, 8, (Date.parse(view.released_at) / 1000) % 86_400);
  const flags = flagsOf(view, t0, t1, x);
  const inDomain = (pa: number) => py(pa) >= P_TOP - 1 && py(pa) <= P_BOTTOM + 1;
  if (view.pressure.length === 0) return <p className="text-sm text-soft">No pressure was read yet: type a reading, or bring a logger's file.</p>;
  return (
    <figure className="m-0">
      <svg
        viewBox={`0 0 ${W} ${H}`}
        className="block w-full"
        role="img"
        aria-label="Hold chart: pressure and temperature against time. The same figures stand in the table of readings."
        onPointerMove={move}
        onPointerLeave={() => setCursor(null)}
      >
        <clipPath id="hold-plot">
          <rect x={LEFT} y={P_TOP} width={W - LEFT - RIGHT} height={P_BOTTOM - P_TOP} />
        </clipPath>
        <rect x={LEFT} y={P_TOP} width={W - LEFT - RIGHT} height={P_BOTTOM - P_TOP} className="fill-chart" />
        <rect x={LEFT} y={T_TOP} width={W - LEFT - RIGHT} height={T_BOTTOM - T_TOP} className="fill-chart" />
        {hold ? (
          <rect
            x={Math.max(LEFT, x(hold.start_s))}
            y={P_TOP}
            width={Math.max(0, Math.min(W - RIGHT, x(hold.end_s)) - Math.max(LEFT, x(hold.start_s)))}
            height={P_BOTTOM - P_TOP}
            className="fill-wash"
            opacity="0.45"
          />
        ) : null}
        {y.ticks(6).map((t) => (
          <g key={t}>
            <line x1={LEFT} x2={W - RIGHT} y1={y(t)} y2={y(t)} className="stroke-grid" />
            <text x={LEFT - 7} y={y(t) + 4} textAnchor="end" className="fill-soft font-mono text-xs">
              {y.tickFormat(6)(t)}
            </text>
          </g>
        ))}
        <text x={LEFT - 7} y={P_TOP - 9} textAnchor="end" className="fill-soft text-xs">
          {SYMBOL[unit]}
        </text>
        {times.map((t) => (
          <g key={t}>
            <line x1={x(t)} x2={x(t)} y1={P_TOP} y2={T_BOTTOM} className="stroke-grid" />
            <text x={x(t)} y={H - 6} textAnchor="middle" className="fill-soft font-mono text-xs">
              {clock(view, t)}
            </text>
          </g>
        ))}
        {band.length > 1 && !whole ? <path d={ribbon(band) ?? ""} className="fill-water" opacity="0.25" clipPath="url(#hold-plot)" /> : null}
        {bounds
          .filter((b) => inDomain(b.pa))
          .map((b) => (
            <g key={b.word}>
              <line
                x1={LEFT}
                x2={W - RIGHT}
                y1={py(b.pa)}
                y2={py(b.pa)}
                className={b.cls === "ink" ? "stroke-ink" : "stroke-danger"}
                strokeWidth="2"
                strokeDasharray={b.dash}
              />
              <text
                x={W - RIGHT - 4}
                y={py(b.pa) + (b.word === "lower" ? 15 : -6)}
                textAnchor="end"
                className={`text-xs font-semibold ${b.cls === "ink" ? "fill-ink" : "fill-danger"}`}
              >
                {figure(b.pa, unit, decimals, b.word === "lower" ? "up" : "down")} {b.word}
              </text>
            </g>
          ))}
        <path d={path(seen) ?? ""} className="stroke-ink" strokeWidth="1.6" fill="none" clipPath="url(#hold-plot)" />
        {seen.length <= 400 ? seen.filter((p) => inDomain(p.value)).map((p) => <circle key={p.t_s} cx={x(p.t_s)} cy={py(p.value)} r="2.1" className="fill-ink" />) : null}
        {flags.map((f) => (
          <g key={f.key}>
            <line x1={f.x} x2={f.x} y1={P_TOP} y2={P_BOTTOM} className={f.leak ? "stroke-danger" : "stroke-ink"} strokeDasharray="3 3" />
            <text
              x={f.x + f.dx}
              y={f.y}
              textAnchor={f.dx < 0 ? "end" : "start"}
              className={`text-xs ${f.leak ? "fill-danger font-semibold" : "fill-ink"}`}
              style={{ paintOrder: "stroke", stroke: "var(--color-chart)", strokeWidth: 3 }}
            >
              {f.words}
            </text>
          </g>
        ))}
        {(temps.length ? ty.ticks(3) : []).map((t) => (
          <text key={t} x={LEFT - 7} y={ty(t) + 4} textAnchor="end" className="fill-soft font-mono text-xs">
            {ty.tickFormat(3)(t)}
          </text>
        ))}
        <text x={W - RIGHT - 4} y={T_TOP + 13} textAnchor="end" className="fill-water text-xs">
          {temps.length ? "temperature, °C" : "no temperature was read"}
        </text>
        <path d={tPath(temps) ?? ""} className="stroke-water" strokeWidth="1.8" fill="none" />
        {near ? (
          <g>
            <line x1={x(near.t_s)} x2={x(near.t_s)} y1={P_TOP} y2={T_BOTTOM} className="stroke-water" />
            <circle cx={x(near.t_s)} cy={py(near.value)} r="4" className="fill-none stroke-water" strokeWidth="2" />
          </g>
        ) : null}
      </svg>
      <figcaption className="flex flex-wrap gap-x-5 text-xs text-soft">
        {band.length ? (
          <span>
            <span aria-hidden className="mr-1 inline-block h-2.5 w-5 bg-water/25 align-middle" /> what temperature alone would do, 95 %
          </span>
        ) : null}
        <span>
          <span aria-hidden className="mr-1 inline-block h-2.5 w-5 bg-wash align-middle" /> hold
        </span>
        <span className="num text-ink" aria-live="off">
          {near
            ? `${clock(view, near.t_s)}  ${figure(near.value, unit, decimals)} ${SYMBOL[unit]}${nearT ? `  ${nearT.value.toFixed(2)} °C` : ""}`
            : `${view.readings} readings`}
        </span>
      </figcaption>
    </figure>
  );
}

/** Flags of the events in view, their words on three levels so that neighbours do not cover each other. */
function flagsOf(view: HoldView, t0: number, t1: number, x: (t: number) => number) {
  const seen = view.events.filter((e) => e.t_s >= t0 && e.t_s <= t1);
  return seen.map((e, i) => {
    const { event } = e;
    const at = x(e.t_s);
    return { key: event.id, x: at, dx: at > W - 110 ? -4 : 4, y: P_TOP + 12 + (i % 3) * 14, words: EVENT_WORDS[event.kind], leak: event.kind === "leak_seen" };
  });
}
