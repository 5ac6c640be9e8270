import { scaleLinear } from "d3-scale";
import { area } from "d3-shape";
import { type KeyboardEvent, type PointerEvent, useMemo, useRef, useState, type WheelEvent } from "react";
import type { Schema } from "../api/client";
import { term, word } from "../api/words";
import { extent, fromPoints, nearest, parted, type Series } from "./series";
import { useSheet } from "./sheet";
import { timeTicks } from "./time-ticks";
import { type Line, Trace } from "./trace";
import { type Figures, inUnit } from "../units";
import { changes, clockOf, secondsOfDay, zoneName } from "../api/zone";

type HoldView = Schema["HoldView"];
type Judgement = Schema["Judgement"];

const H = 430;
const LEFT = 64;
const RIGHT = 16;
const P_TOP = 26;
const P_BOTTOM = 300;
const T_TOP = 326;
const T_BOTTOM = 404;

interface Props {
  view: HoldView;
  /** Every reading; without it the thinned points of the view are drawn, which keep every peak. */
  series?: Series;
  judgement?: Judgement | null;
  show: Figures;
  divisionPa: number;
  /** True shows the whole run, false the hold and its last few per cent. */
  whole: boolean;
}

type Span = readonly [from: number, to: number];

/** Room that the flags of events take on their three levels. */
const FLAGS = 52;
/** Room beneath the lower bound for its name and the names of faults. */
const WORDS = 34;
/** Readings of which each is drawn as a point, too. */
const DOTTED = 300;
/** Room that a letter of the strip of stretches takes. */
const LETTER = 6.6;

/** Time as the project's clock shows it. */
function clock(view: HoldView, seconds: number, exact = false): string {
  return clockOf(Date.parse(view.released_at) + seconds * 1000, exact);
}

/** The time that is shown when nobody has moved it. */
function home(view: HoldView, first: number, last: number, whole: boolean): Span {
  const hold = view.hold;
  if (whole || !hold) return [Math.min(first, ...view.events.map((e) => e.t_s)), last];
  const span = Math.max(60, hold.end_s - hold.start_s);
  return [hold.start_s - span * 0.08, hold.end_s + span * 0.06];
}

/** A span moved and stretched, kept over the readings and no shorter than ten seconds. */
function moved([from, to]: Span, by: number, stretch: number, around: number, limits: Span): Span {
  const width = Math.min(Math.max((to - from) * stretch, 10), (limits[1] - limits[0]) * 1.2);
  const share = (around - from) / (to - from);
  const start = around - share * width + by;
  const least = limits[0] - width * 0.5;
  const most = limits[1] - width * 0.5;
  const kept = Math.min(Math.max(start, least), most);
  return [kept, kept + width];
}

/** Pressure against time with what heat and relaxation alone would do, and temperatures beneath on the same axis. */
export function HoldChart({ view, series, judgement, show, divisionPa, whole }: Props) {
  const unit = show.unit;
  const W = useSheet(880, 400);
  const [cursor, setCursor] = useState<number | null>(null);
  const [span, setSpan] = useState<{ at: Span; whole: boolean } | null>(null);
  const [hidden, setHidden] = useState<readonly string[]>([]);
  const drag = useRef<{ x: number; at: Span } | null>(null);
  const pressure = useMemo(() => series?.pressure ?? fromPoints(view.pressure), [series, view.pressure]);
  const temperature = useMemo(() => series?.temperature ?? fromPoints(view.temperature), [series, view.temperature]);
  const first = pressure.t[0] ?? 0;
  const last = Math.max(pressure.t.at(-1) ?? 1, first + 60);
  const at: Span = span && span.whole === whole ? span.at : home(view, first, last, whole);
  const [t0, t1] = at;
  const hold = view.hold ?? null;
  const x = scaleLinear()
    .domain([t0, t1])
    .range([LEFT, W - RIGHT]);
  const zoomed = !whole || span !== null;
  // what stands far off and is left out does not set the scale; it leaves the picture under its flag
  const farOff = judgement?.found.defects.some((d) => !d.overruled && ["spike", "wrong_unit", "saturated"].includes(d.kind)) ?? false;
  const fitted = (judgement?.found.chart ?? []).filter((c) => c.t_s >= t0 && c.t_s <= t1).map((c) => c.fitted_pa);
  const byFit: Span | null = zoomed && farOff && fitted.length > 1 ? [Math.min(...fitted), Math.max(...fitted)] : null;
  const seen = byFit ?? (hold && zoomed ? extent(pressure, Math.max(t0, hold.start_s - 1), Math.min(t1, hold.end_s + 1)) : null) ?? extent(pressure, t0, t1) ?? [0, 1e5];
  const band = judgement?.found.chart ?? [];
  const banded = zoomed
    ? band.filter((c) => c.t_s >= t0 && c.t_s <= t1).flatMap((c) => [c.without_loss_pa + c.half_width_95_pa, c.without_loss_pa - c.half_width_95_pa])
    : [];
  const low = Math.min(seen[0], ...banded);
  const high = Math.max(seen[1], ...banded);
  const pad = Math.max((high - low) * 0.15, divisionPa * 4);
  const bounds: { pa: number; word: string; cls: string; dash?: string }[] = [
    { pa: view.lower_pa, word: "lower", cls: "ink" },
    { pa: view.upper_pa, word: "upper", cls: "danger", dash: "8 3" },
  ];
  // the lower bound is drawn when it is near enough to matter
  const reach = (high - low + 2 * pad) * 1.2;
  const beneath = ((high + pad - view.lower_pa) * WORDS) / (P_BOTTOM - P_TOP - WORDS);
  const near = view.lower_pa > low - reach ? view.lower_pa - beneath : Number.POSITIVE_INFINITY;
  // over a whole run the flags stand above everything that was read
  const domain: Span = zoomed ? [Math.min(low - pad, near), high + pad] : [Math.min(0, low), Math.max(high, view.lower_pa) / (1 - FLAGS / (P_BOTTOM - P_TOP))];
  const y = scaleLinear()
    .domain(domain.map((pa) => inUnit(pa, unit)))
    .range([P_BOTTOM, P_TOP]);
  const py = (pa: number) => y(inUnit(pa, unit));
  const also = useMemo(() => view.also.map((a) => ({ ...a, channel: fromPoints(a.points.map((p) => ({ ...p, value: p.value - a.above_first }))) })), [view.also]);
  const drawn = also.filter((a) => !hidden.includes(a.tag));
  const ranges = [temperature, ...drawn.filter((a) => !a.gauge).map((a) => a.channel)].map((c) => extent(c, t0, t1)).filter((e) => e !== null);
  const temps: Span | null = ranges.length ? [Math.min(...ranges.map((r) => r[0])), Math.max(...ranges.map((r) => r[1]))] : null;
  const tMid = temps ? (temps[0] + temps[1]) / 2 : 15;
  const tHalf = Math.max(0.05, temps ? (temps[1] - temps[0]) * 0.7 : 1);
  const warmth = show.axis(tMid, "temperature_c");
  const warm = scaleLinear()
    .domain([tMid - tHalf, tMid + tHalf].map((c) => c * warmth.factor + warmth.offset))
    .range([T_BOTTOM, T_TOP]);
  const ty = (c: number) => warm(c * warmth.factor + warmth.offset);
  // its name stands farthest from where the lines end
  const ends = [temperature, ...drawn.filter((a) => !a.gauge).map((a) => a.channel)].map((c) => nearest(c, t1)).flatMap((p) => (p ? [ty(p.value)] : []));
  const clear = (at: number) => Math.min(Infinity, ...ends.map((end) => Math.abs(at - 4 - end)));
  const nameAt = [T_TOP + 13, (T_TOP + T_BOTTOM) / 2 + 4, T_BOTTOM - 6].reduce((best, at) => (clear(at) > clear(best) ? at : best));
  const ribbon = area<(typeof band)[number]>()
    .x((c) => x(c.t_s))
    .y0((c) => py(c.without_loss_pa - c.half_width_95_pa))
    .y1((c) => py(c.without_loss_pa + c.half_width_95_pa));
  const point = cursor === null ? undefined : nearest(pressure, cursor);
  const pointT = point ? nearest(temperature, point.t_s) : undefined;
  const move = (next: Span) => setSpan({ at: next, whole });
  const timeAt = (e: { clientX: number; currentTarget: Element }) => {
    const box = e.currentTarget.getBoundingClientRect();
    return x.invert(((e.clientX - box.left) / box.width) * W);
  };
  const limits: Span = [first, last];
  const onMove = (e: PointerEvent<SVGSVGElement>) => {
    if (!drag.current) return setCursor(timeAt(e));
    const box = e.currentTarget.getBoundingClientRect();
    const by = ((drag.current.x - e.clientX) / box.width) * (W / (W - LEFT - RIGHT)) * (t1 - t0);
    move(moved(drag.current.at, by, 1, drag.current.at[0], limits));
  };
  const onWheel = (e: WheelEvent<SVGSVGElement>) => move(moved(at, 0, e.deltaY > 0 ? 1.25 : 0.8, timeAt(e), limits));
  const onKey = (e: KeyboardEvent) => {
    const step = (t1 - t0) * 0.1;
    const middle = (t0 + t1) / 2;
    if (e.key === "ArrowLeft") move(moved(at, -step, 1, t0, limits));
    else if (e.key === "ArrowRight") move(moved(at, step, 1, t0, limits));
    else if (e.key === "+") move(moved(at, 0, 0.7, middle, limits));
    else if (e.key === "-") move(moved(at, 0, 1.4, middle, limits));
    else if (e.key === "0" || e.key === "Escape") setSpan(null);
    else return;
    e.preventDefault();
  };
  // a clock with its seconds is wider: no label stands on another, however wide the chart is
  const toTheSecond = t1 - t0 < 480;
  const room = Math.floor((W - LEFT - RIGHT) / (toTheSecond ? 92 : 64));
  const times = timeTicks(t0, t1, Math.max(2, Math.min(8, room)), secondsOfDay(view.released_at));
  const flags = flagsOf(view, t0, t1, x, W);
  const zero = Date.parse(view.released_at);
  const put = changes(zero + t0 * 1000, zero + t1 * 1000).map((c) => ({ ...c, t_s: (c.at - zero) / 1000 }));
  const inDomain = (pa: number) => py(pa) >= P_TOP + (zoomed ? 0 : FLAGS) - 1 && py(pa) <= P_BOTTOM + 1;
  if (pressure.t.length === 0) return <p className="text-sm text-soft">No pressure was read yet: type a reading, or bring a logger's file.</p>;
  return (
    <figure className="m-0">
      <div
        role="group"
        aria-label="Hold chart; arrows move it, plus and minus zoom, 0 shows the hold again"
        tabIndex={0}
        onKeyDown={onKey}
        className="relative"
        data-points={pressure.t.length}
        data-from={t0}
        data-to={t1}
      >
        <svg
          viewBox={`0 0 ${W} ${H}`}
          className="block w-full touch-pan-y select-none"
          role="img"
          aria-label="Hold chart: pressure and temperature against time. The same figures stand in the table of readings."
          onPointerDown={(e) => {
            drag.current = { x: e.clientX, at };
            e.currentTarget.setPointerCapture?.(e.pointerId);
          }}
          onPointerUp={() => {
            drag.current = null;
          }}
          onPointerMove={onMove}
          onPointerLeave={() => setCursor(null)}
          onWheel={onWheel}
        >
          <clipPath id="hold-plot">
            <rect x={LEFT} y={P_TOP} width={W - LEFT - RIGHT} height={P_BOTTOM - P_TOP} />
          </clipPath>
          <rect x={LEFT} y={P_TOP} width={W - LEFT - RIGHT} height={P_BOTTOM - P_TOP} className="fill-chart" />
          <rect x={LEFT} y={T_TOP} width={W - LEFT - RIGHT} height={T_BOTTOM - T_TOP} className="fill-chart" />
          {hold && hold.end_s > t0 && hold.start_s < t1 ? (
            <rect
              x={Math.max(LEFT, x(hold.start_s))}
              y={P_TOP}
              width={Math.max(0, Math.min(W - RIGHT, x(hold.end_s)) - Math.max(LEFT, x(hold.start_s)))}
              height={P_BOTTOM - P_TOP}
              className="fill-wash"
              opacity="0.45"
            />
          ) : null}
          {(judgement?.found.defects ?? [])
            .filter((d) => d.end_s >= t0 && d.start_s <= t1)
            .map((d) => {
              const from = Math.max(LEFT, x(d.start_s));
              const to = Math.min(W - RIGHT, x(d.end_s));
              return (
                <g key={`${d.kind}${d.channel ?? ""}${d.start_s}${d.overruled ?? ""}`} data-defect={d.kind}>
                  <rect x={from} y={P_TOP} width={Math.max(2, to - from)} height={P_BOTTOM - P_TOP} className="fill-limit" opacity={d.overruled ? 0.06 : 0.16} />
                  <text
                    x={Math.min(from + 3, W - RIGHT - 70)}
                    y={P_BOTTOM - 5}
                    className="fill-limit text-xs"
                    style={{ paintOrder: "stroke", stroke: "var(--color-chart)", strokeWidth: 3 }}
                  >
                    {term("defect", d.kind).short}
                  </text>
                </g>
              );
            })}
          {view.stretches
            .filter((s) => s.end_s > t0 && s.start_s < t1)
            .map((s) => {
              const from = Math.max(LEFT, x(s.start_s));
              const width = Math.min(W - RIGHT, x(s.end_s)) - from;
              const says = word("stretch", s.kind);
              return (
                <g key={`${s.kind}${s.start_s}`} data-stretch={s.kind}>
                  <title>{`${says}, ${clock(view, s.start_s)} to ${clock(view, s.end_s)}`}</title>
                  <rect
                    x={from}
                    y={P_BOTTOM + 5}
                    width={Math.max(1, width - 1)}
                    height={15}
                    className={s.kind === "hold" ? "fill-wash" : s.kind === "ramp" ? "fill-grid" : "fill-chart"}
                  />
                  {width > says.length * LETTER + 6 ? (
                    <text
                      x={from + width / 2}
                      y={P_BOTTOM + 16.5}
                      textAnchor="middle"
                      className={`text-xs ${s.kind === "hold" ? "fill-ink font-semibold" : "fill-soft"}`}
                    >
                      {says}
                    </text>
                  ) : null}
                </g>
              );
            })}
          {y.ticks(6).map((t) => (
            <g key={t}>
              <line x1={LEFT} x2={W - RIGHT} y1={y(t)} y2={y(t)} className="stroke-grid" />
              <text x={LEFT - 7} y={y(t) + 4} textAnchor="end" className="fill-soft font-mono text-xs">
                {y.tickFormat(6)(t)}
              </text>
            </g>
          ))}
          <text x={LEFT - 7} y={P_TOP - 9} textAnchor="end" className="fill-soft text-xs">
            {show.symbol}
          </text>
          {times.map((t) => (
            <g key={t}>
              <line x1={x(t)} x2={x(t)} y1={P_TOP} y2={T_BOTTOM} className="stroke-grid" />
              <text x={Math.min(x(t), W - (toTheSecond ? 36 : 24))} y={H - 6} textAnchor="middle" className="fill-soft font-mono text-xs">
                {clock(view, t, toTheSecond)}
              </text>
            </g>
          ))}
          {band.length > 1 && zoomed ? <path d={ribbon(band) ?? ""} className="fill-water" opacity="0.25" clipPath="url(#hold-plot)" /> : null}
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
                  x={zoomed ? W - RIGHT - 4 : LEFT + 4}
                  y={py(b.pa) + (b.word === "lower" ? 15 : -6)}
                  textAnchor={zoomed ? "end" : "start"}
                  className={`text-xs font-semibold ${b.cls === "ink" ? "fill-ink" : "fill-danger"}`}
                >
                  {show.n(b.pa, b.word === "lower" ? "up" : "down")} {b.word}
                </text>
              </g>
            ))}
          {put.map((c) => (
            <g key={c.at} data-clocks={c.by_s}>
              <line x1={x(c.t_s)} x2={x(c.t_s)} y1={P_TOP} y2={T_BOTTOM} className="stroke-limit" strokeWidth="2" strokeDasharray="2 3" />
              <text
                x={x(c.t_s) + 4}
                y={P_BOTTOM - 6}
                className="fill-limit text-xs font-semibold"
                style={{ paintOrder: "stroke", stroke: "var(--color-chart)", strokeWidth: 3 }}
              >
                clock put {c.by_s > 0 ? "forward" : "back"} by {Math.abs(c.by_s) / 60} min
              </text>
            </g>
          ))}
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
          {(temps ? warm.ticks(3) : []).map((t) => (
            <text key={t} x={LEFT - 7} y={warm(t) + 4} textAnchor="end" className="fill-soft font-mono text-xs">
              {warm.tickFormat(3)(t)}
            </text>
          ))}
          <text
            x={W - RIGHT - 4}
            y={nameAt}
            textAnchor="end"
            className="fill-water text-xs"
            style={{ paintOrder: "stroke", stroke: "var(--color-chart)", strokeWidth: 4 }}
          >
            {temps ? `temperature, ${show.symbolOf("temperature_c")}` : "no temperature was read"}
          </text>
          {point ? (
            <g>
              <line x1={x(point.t_s)} x2={x(point.t_s)} y1={P_TOP} y2={T_BOTTOM} className="stroke-water" />
              <circle cx={x(point.t_s)} cy={py(point.value)} r="4" className="fill-none stroke-water" strokeWidth="2" />
            </g>
          ) : null}
        </svg>
        <Trace
          from={t0}
          to={t1}
          left={LEFT}
          right={W - RIGHT}
          width={W}
          height={H}
          lines={[
            ...drawn.map(
              ({ channel, gauge }): Line =>
                gauge
                  ? { channel, domain, box: [P_TOP, P_BOTTOM], colour: "--color-soft", thin: true }
                  : { channel, domain: [tMid - tHalf, tMid + tHalf], box: [T_TOP, T_BOTTOM], colour: "--color-soft", thin: true },
            ),
            ...parted(pressure, whole || !hold ? Number.POSITIVE_INFINITY : hold.end_s).map(
              (channel): Line => ({ channel, domain, box: [P_TOP, P_BOTTOM], colour: "--color-ink", dense: pressure.t.length > DOTTED }),
            ),
            { channel: temperature, domain: [tMid - tHalf, tMid + tHalf], box: [T_TOP, T_BOTTOM], colour: "--color-water" },
          ]}
        />
      </div>
      <figcaption className="flex flex-wrap gap-x-5 text-xs text-soft">
        {band.length ? (
          <span>
            <span aria-hidden className="mr-1 inline-block h-2.5 w-5 bg-water/25 align-middle" /> what heat and relaxation alone would do, 95 %
          </span>
        ) : null}
        <span>
          <span aria-hidden className="mr-1 inline-block h-2.5 w-5 bg-wash align-middle" /> hold
        </span>
        {judgement?.found.defects.length ? (
          <span>
            <span aria-hidden className="mr-1 inline-block h-2.5 w-5 bg-limit/20 align-middle" /> something is wrong with the record
          </span>
        ) : null}
        {also.map((a) => (
          <label key={a.tag} className="inline-flex items-center gap-1">
            <input
              type="checkbox"
              checked={!hidden.includes(a.tag)}
              onChange={(e) => setHidden(e.target.checked ? hidden.filter((tag) => tag !== a.tag) : [...hidden, a.tag])}
            />
            {a.tag}
            {a.gauge && Math.abs(a.above_first) > divisionPa / 2
              ? `, drawn ${show.n(Math.abs(a.above_first))} ${show.symbol} ${a.above_first > 0 ? "lower" : "higher"}`
              : ""}
          </label>
        ))}
        <span className="num text-ink" aria-live="off">
          {point
            ? `${clock(view, point.t_s, true)}  ${show.n(point.value)} ${show.symbol}${pointT ? `  ${show.of(pointT.value, "temperature_c")}` : ""}`
            : `${pressure.t.length} readings`}
        </span>
        <span>times in {zoneName()}</span>
        <span>drag or arrows move it, wheel or + − zoom</span>
      </figcaption>
    </figure>
  );
}

/** Levels on which the words of flags stand. */
const LEVELS = 3;

/** Flags of the events in view: no words stand on others, and where there is no room for more of them the line stands alone. A leak keeps its words. */
function flagsOf(view: HoldView, t0: number, t1: number, x: (t: number) => number, W: number) {
  const taken: Span[][] = Array.from({ length: LEVELS }, () => []);
  const place = (e: HoldView["events"][number]) => {
    const { event } = e;
    const words = term("event", event.kind).short;
    const at = x(e.t_s);
    const dx = at > W - 110 ? -4 : 4;
    const width = words.length * LETTER;
    const [from, to] = dx < 0 ? [at - 4 - width, at - 4] : [at + 4, at + 4 + width];
    const level = taken.findIndex((row) => row.every(([a, b]) => to < a || from > b));
    taken[level]?.push([from, to]);
    return { key: event.id, x: at, dx, y: P_TOP + 12 + Math.max(0, level) * 14, words: level < 0 ? "" : words, leak: event.kind === "leak_seen" };
  };
  const seen = view.events.filter((e) => e.t_s >= t0 && e.t_s <= t1);
  const leaks = (e: HoldView["events"][number]) => Number(e.event.kind === "leak_seen");
  return [...seen].sort((a, b) => leaks(b) - leaks(a) || a.t_s - b.t_s).map(place);
}
