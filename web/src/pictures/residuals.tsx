import { scaleLinear } from "d3-scale";
import { useSheet } from "./sheet";
import type { Schema } from "../api/client";
import { type Figures, inUnit } from "../units";
import { clockOf } from "../api/zone";

const H = 150;
const LEFT = 64;
const RIGHT = 16;
const TOP = 10;
const BOTTOM = 124;

/** What is left of the gauge's readings after the fit, about nought, with twice its scatter. */
export function Residuals({ found, show, divisionPa, startedAt }: { found: Schema["Found"]; show: Figures; divisionPa: number; startedAt: string }) {
  const W = useSheet(880, 400);
  const unit = show.unit;
  const points = found.residuals;
  const [first, last] = [points[0], points.at(-1)];
  if (points.length < 3 || !first || !last) return null;
  const reach = Math.max(...points.map((p) => Math.abs(p.residual_pa)), 2.2 * (found.noise_pa ?? 0), divisionPa * 0.2);
  const x = scaleLinear()
    .domain([first.t_s, last.t_s])
    .range([LEFT, W - RIGHT]);
  const y = scaleLinear()
    .domain([inUnit(-reach, unit), inUnit(reach, unit)])
    .range([BOTTOM, TOP]);
  const at = (pa: number) => y(inUnit(pa, unit));
  const clock = (s: number) => clockOf(Date.parse(startedAt) + s * 1000);
  const noise = found.noise_pa ?? 0;
  return (
    <figure className="m-0">
      <svg viewBox={`0 0 ${W} ${H}`} className="block w-full" role="img" aria-label={`Residuals: ${points.length} points about zero`}>
        <rect x={LEFT} y={TOP} width={W - LEFT - RIGHT} height={BOTTOM - TOP} className="fill-chart" />
        <rect x={LEFT} y={at(2 * noise)} width={W - LEFT - RIGHT} height={at(-2 * noise) - at(2 * noise)} className="fill-water" opacity="0.16" />
        {y.ticks(4).map((t) => (
          <g key={t}>
            <line x1={LEFT} x2={W - RIGHT} y1={y(t)} y2={y(t)} className={t === 0 ? "stroke-ink" : "stroke-grid"} />
            <text x={LEFT - 7} y={y(t) + 4} textAnchor="end" className="fill-soft font-mono text-xs">
              {y.tickFormat(4)(t)}
            </text>
          </g>
        ))}
        {points.map((p) => (
          <g key={p.t_s}>
            <line x1={x(p.t_s)} x2={x(p.t_s)} y1={at(0)} y2={at(p.residual_pa)} className="stroke-ink" opacity="0.45" />
            <circle cx={x(p.t_s)} cy={at(p.residual_pa)} r="2.4" className="fill-ink" />
          </g>
        ))}
        {[first, last].map((p, i) => (
          <text key={p.t_s} x={x(p.t_s)} y={H - 8} textAnchor={i === 0 ? "start" : "end"} className="fill-soft font-mono text-xs">
            {clock(p.t_s)}
          </text>
        ))}
      </svg>
      <figcaption className="text-xs text-soft">
        what is left of the readings after the fit, {show.symbol}
        <span className="ml-4">
          <span aria-hidden className="mr-1 inline-block h-2.5 w-5 bg-water/20 align-middle" /> twice its scatter
        </span>
      </figcaption>
    </figure>
  );
}
