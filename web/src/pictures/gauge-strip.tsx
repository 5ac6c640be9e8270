import { scaleLinear } from "d3-scale";
import { useEffect, useRef, useState } from "react";
import type { Pack } from "../api/client";
import { emptyWindow } from "../api/window";
import { type Figures, inUnit, type Toward, useFigures } from "../units";

const LINES = {
  upper: { stroke: "stroke-danger", text: "fill-danger", dash: undefined, width: 2.5 },
  relief: { stroke: "stroke-danger", text: "fill-danger", dash: "1.5 3", width: 2 },
  stop: { stroke: "stroke-danger", text: "fill-danger", dash: "10 3 2 3", width: 1.5 },
  alarm: { stroke: "stroke-limit", text: "fill-limit", dash: "6 4", width: 2 },
  planned: { stroke: "stroke-water", text: "fill-water", dash: undefined, width: 1.5 },
  lowered: { stroke: "stroke-water", text: "fill-water", dash: "6 4", width: 1.5 },
  lower: { stroke: "stroke-ink", text: "fill-ink", dash: undefined, width: 2.5 },
} as const;

interface Mark {
  kind: keyof typeof LINES;
  pa: number;
  /** What the label says, where that is rounded to the gauge's division. */
  says?: number;
  label: string;
  under?: string;
  round: Toward;
}

/** Marks of a pack from the top down. */
function marksOf(pack: Pack): Mark[] {
  const d = pack.derived;
  if (!d) return [];
  const marks: Mark[] = [
    { kind: "upper", pa: d.upper_pa, label: "upper", under: d.upper_part, round: "down" },
    { kind: "lower", pa: d.lower_pa, says: d.lower_readable_pa, label: "lower", under: d.lower_part, round: "up" },
  ];
  if (d.day && !emptyWindow(d)) {
    const day = d.day;
    marks.push({ kind: "stop", pa: day.stop_line_pa, label: "stop line", round: "down" });
    if (day.relief_set_pa != null) marks.push({ kind: "relief", pa: day.relief_set_pa, label: "relief set", round: "down" });
    marks.push({ kind: "alarm", pa: day.alarm_pa, label: "alarm", round: "down" });
    const lowered = (d.criteria ?? []).find((c) => c.kind === "expansion");
    if (lowered) marks.push({ kind: "lowered", pa: day.planned_pa - lowered.lowered_pa, label: "for the hold", round: "nearest" });
    else if (day.look_pa < day.planned_pa) marks.push({ kind: "lowered", pa: day.look_pa, label: "for the look", round: "up" });
    marks.push({ kind: "planned", pa: day.planned_pa, label: "planned", under: day.look_pa === day.planned_pa ? "look at this too" : undefined, round: "up" });
  }
  return marks.sort((a, b) => b.pa - a.pa);
}

/** Moves labels apart so that none covers another. */
function apart(at: number[], gap: number[], top: number, bottom: number): number[] {
  const y = [...at];
  for (let pass = 0; pass < 60; pass++) {
    let moved = false;
    for (let i = 1; i < y.length; i++) {
      const need = (gap[i - 1] ?? 16) - ((y[i] ?? 0) - (y[i - 1] ?? 0));
      if (need > 0.1) {
        y[i - 1] = (y[i - 1] ?? 0) - need / 2;
        y[i] = (y[i] ?? 0) + need / 2;
        moved = true;
      }
    }
    if (y.length && (y[0] ?? 0) < top) y[0] = top;
    const last = y.length - 1;
    if (last >= 0 && (y[last] ?? 0) > bottom) y[last] = bottom;
    if (!moved) break;
  }
  return y;
}

interface Props {
  pack: Pack;
  /** Live reading and where the needle came from; absent where the test is not followed. */
  live?: { pa: number; trail: readonly { t_s: number; value: number }[]; stale: boolean };
}

/** One vertical pressure scale with every mark of the day, and the needle once something was read. */
export function GaugeStrip({ pack, live }: Props) {
  const show = useFigures(pack);
  const box = useRef<HTMLDivElement>(null);
  const [height, setHeight] = useState(500);
  useEffect(() => {
    const el = box.current;
    if (!el) return;
    const watch = new ResizeObserver(() => setHeight(Math.max(300, el.clientHeight)));
    watch.observe(el);
    return () => watch.disconnect();
  }, []);
  const marks = marksOf(pack);
  const attempt = pack.attempts.at(-1);
  const needle = attempt && !attempt.over ? (live?.pa ?? attempt.last_pressure_pa) : undefined;
  return (
    <div className="flex h-full flex-col pb-2">
      <p className="m-0 px-3 pt-2 text-xs text-soft">
        At {pack.gauge.tag}, {show.symbol}
      </p>
      <div ref={box} className="min-h-0 flex-1 overflow-hidden">
        {marks.length ? (
          <Scale
            marks={marks}
            show={show}
            division={pack.gauge.division_pa}
            height={height}
            needle={needle ?? undefined}
            trail={live?.trail.slice(-120)}
            stale={live?.stale ?? false}
            empty={Boolean(pack.derived?.conflict)}
          />
        ) : (
          <p className="px-3 text-sm text-soft">No marks yet: give the parts first.</p>
        )}
      </div>
      {marks.length && needle !== undefined && needle !== null ? <Reads needle={needle} show={show} stale={live?.stale ?? false} /> : null}
      <div className="shrink-0 px-3 text-xs leading-snug text-soft">
        {pack.gauge.full_scale_pa ? (
          <>
            gauge 0 to {show.named(pack.gauge.full_scale_pa)}, reads to {show.n(pack.gauge.division_pa)}
          </>
        ) : (
          "no gauge chosen yet"
        )}
        {pack.derived?.day?.conflicts.map((c) => (
          <strong key={c.about} className="block text-danger">
            {c.about === "relief" ? "no relief setting fits" : "window too narrow for this gauge"}
          </strong>
        ))}
        {pack.derived?.gauge_offer?.refused ? <strong className="block text-danger">gauge of the wrong range</strong> : null}
      </div>
    </div>
  );
}

interface ScaleProps {
  marks: Mark[];
  show: Figures;
  division: number;
  height: number;
  needle?: number;
  trail?: readonly { t_s: number; value: number }[];
  /** What the needle shows is no longer now. */
  stale: boolean;
  empty: boolean;
}

function Scale({ marks, show, division, height, needle, trail, stale, empty }: ScaleProps) {
  const unit = show.unit;
  const pas = marks.map((m) => m.pa);
  const [low, high] = [Math.min(...pas), Math.max(...pas)];
  const pad = Math.max((high - low) * 0.22, division * 3);
  // the scale starts at zero while the needle is far below the window
  const bottom = needle !== undefined && needle < low - 2 * pad ? 0 : Math.min(low - pad, needle ?? low);
  const y = scaleLinear()
    .domain([inUnit(bottom, unit), inUnit(Math.max(high + pad, needle ?? high), unit)])
    .range([height - 14, 14]);
  const at = (pa: number) => y(inUnit(pa, unit));
  const labels = apart(
    marks.map((m) => at(m.pa)),
    marks.map((m) => (m.under ? 31 : 18)),
    16,
    height - 20,
  );
  // the needle has a lane of its own between the figures of the scale and the scale
  const X = 60;
  const ticks = y.ticks(9);
  const tickDecimals = Math.min(3, Math.max(0, -Math.floor(Math.log10((ticks[1] ?? 1) - (ticks[0] ?? 0)) + 1e-9)));
  return (
    <svg
      width="216"
      height={height}
      role="img"
      aria-label={`Gauge strip in ${show.symbol}: ${marks.map((m) => `${m.label} ${show.n(m.says ?? m.pa, m.round)}`).join(", ")}`}
    >
      {empty ? null : (
        <rect
          x={X}
          width="20"
          y={at(marks.find((m) => m.kind === "upper")?.pa ?? high)}
          height={Math.max(0, at(marks.find((m) => m.kind === "lower")?.pa ?? low) - at(marks.find((m) => m.kind === "upper")?.pa ?? high))}
          className="fill-wash"
        />
      )}
      <line x1={X} x2={X} y1="8" y2={height - 8} className="stroke-ink" strokeWidth="1.5" />
      {ticks.map((t) => (
        <g key={t}>
          <line x1={X - 7} x2={X} y1={y(t)} y2={y(t)} className="stroke-ink" />
          <text x={X - 22} y={y(t) + 4} textAnchor="end" className="fill-ink font-mono text-xs">
            {t.toFixed(tickDecimals)}
          </text>
        </g>
      ))}
      {marks.map((m, i) => {
        const look = LINES[m.kind];
        const ly = labels[i] ?? 0;
        return (
          <g key={m.kind} data-mark={m.kind}>
            <line x1={X} x2={X + 24} y1={at(m.pa)} y2={at(m.pa)} className={look.stroke} strokeWidth={look.width} strokeDasharray={look.dash} />
            {m.kind === "planned" ? <path d={`M${X} ${at(m.pa)}l11 -6v12z`} className="fill-water" /> : null}
            <path d={`M${X + 24} ${at(m.pa)}L${X + 31} ${ly}`} className="stroke-hair" fill="none" />
            <text x={X + 33} y={ly + 4} className={`${look.text} text-xs`}>
              <tspan className="font-mono font-semibold">{show.n(m.says ?? m.pa, m.round)}</tspan>
              <tspan dx="4">{m.label}</tspan>
            </text>
            {m.under ? (
              <text x={X + 33} y={ly + 17} className="fill-soft text-xs">
                {m.under.length > 17 ? `${m.under.slice(0, 16)}…` : m.under}
              </text>
            ) : null}
          </g>
        );
      })}
      {trail && trail.length > 1 ? (
        <line
          x1={X - 5}
          x2={X - 5}
          y1={at(Math.min(...trail.map((p) => p.value)))}
          y2={at(Math.max(...trail.map((p) => p.value)))}
          className="stroke-water"
          strokeWidth="5"
          strokeOpacity="0.45"
          data-mark="trail"
        />
      ) : null}
      {needle !== undefined ? <path d={`M${X - 2} ${at(needle)}l-14 -7v14z`} className={stale ? "fill-paper stroke-danger" : "fill-ink"} data-mark="needle" /> : null}
    </svg>
  );
}

/** What the needle shows, in figures. */
function Reads({ needle, show, stale }: { needle: number; show: Figures; stale: boolean }) {
  return (
    <p className="m-0 px-3 text-sm">
      {stale ? "not now: read" : "reads"} <strong className={`num ${stale ? "text-soft line-through" : ""}`}>{show.n(needle)}</strong>
    </p>
  );
}
