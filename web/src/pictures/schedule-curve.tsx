import { scaleLinear } from "d3-scale";
import { useSheet } from "./sheet";
import type { Schema } from "../api/client";
import { timeTicks } from "./time-ticks";
import { type Figures, inUnit } from "../units";

type Step = Schema["Step"];
const H = 230;
const LEFT = 52;
const RIGHT = 70;
const TOP = 16;
const BOTTOM = 30;

interface Props {
  steps: Step[];
  reached: number;
  show: Figures;
  readings: { t_s: number; value: number }[];
}

const minutes = (s: number) => `${Math.round(s / 60)} min`;

/** The raise as a curve over time: planned, with what was read in front of it. */
export function ScheduleCurve({ steps, reached, show, readings }: Props) {
  const W = useSheet(620, 400);
  const unit = show.unit;
  const end = steps.at(-1)?.ends_s ?? 1;
  const last = Math.max(end, readings.at(-1)?.t_s ?? 0);
  const x = scaleLinear()
    .domain([0, last])
    .range([LEFT, W - RIGHT]);
  const top = steps.at(-1)?.target_pa ?? 1;
  const y = scaleLinear()
    .domain([0, inUnit(top * 1.08, unit)])
    .range([H - BOTTOM, TOP]);
  const py = (pa: number) => y(inUnit(pa, unit));
  let path = `M${x(0)} ${py(0)}`;
  for (const s of steps) path += `L${x(s.reached_s)} ${py(s.target_pa)}L${x(s.ends_s)} ${py(s.target_pa)}`;
  return (
    <svg
      viewBox={`0 0 ${W} ${H}`}
      className="block w-full"
      role="img"
      aria-label={`Schedule: ${steps.map((s) => `${show.n(s.target_pa, "up")} ${show.symbol} after ${minutes(s.reached_s)}`).join(", ")}`}
    >
      <rect x={LEFT} y={TOP} width={W - LEFT - RIGHT} height={H - TOP - BOTTOM} className="fill-chart" />
      {timeTicks(0, last, W < 600 ? 4 : 8).map((t) => (
        <g key={t}>
          <line x1={x(t)} x2={x(t)} y1={TOP} y2={H - BOTTOM} className="stroke-grid" />
          {/* the last makes room for the name of the axis */}
          <text x={x(t)} y={H - 10} textAnchor={x(t) > W - RIGHT - 12 ? "end" : "middle"} className="fill-soft font-mono text-xs">
            {Math.round(t / 60)}
          </text>
        </g>
      ))}
      <text x={W - RIGHT + 12} y={H - 10} className="fill-soft text-xs">
        minutes
      </text>
      {steps.map((s, i) => (
        <g key={s.number}>
          <line x1={LEFT} x2={W - RIGHT} y1={py(s.target_pa)} y2={py(s.target_pa)} className="stroke-grid" />
          <text x={W - RIGHT + 6} y={py(s.target_pa) + 4} className={`font-mono text-xs ${i === reached ? "fill-water font-semibold" : "fill-soft"}`}>
            {show.n(s.target_pa, "up")}
          </text>
        </g>
      ))}
      <path d={path} className="stroke-water" strokeWidth="2" fill="none" strokeDasharray="5 4" />
      {readings.length ? <polyline points={readings.map((r) => `${x(r.t_s)},${py(r.value)}`).join(" ")} className="stroke-ink" strokeWidth="2" fill="none" /> : null}
      <text x={LEFT - 6} y={TOP + 4} textAnchor="end" className="fill-soft text-xs">
        {show.symbol}
      </text>
      <text x={LEFT - 6} y={py(0) + 4} textAnchor="end" className="fill-soft font-mono text-xs">
        0
      </text>
    </svg>
  );
}
