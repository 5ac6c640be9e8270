import { scaleLinear } from "d3-scale";
import { useSheet } from "./sheet";
import type { Schema } from "../api/client";
import { type Figures, inUnit } from "../units";

type View = Schema["PumpingView"];
const H = 240;
const LEFT = 48;
const RIGHT = 14;
const TOP = 14;
const BOTTOM = 34;

/** Pressure against volume pumped, with the band that theory allows between no air and as much as the limit. */
export function PumpingCurve({ view, target, show }: { view: View; target: number | undefined; show: Figures }) {
  const W = useSheet(460, 400);
  const unit = show.unit;
  // one unit for the whole axis: that of what is pumped in all
  const most = Math.max(view.with_air.at(-1)?.volume_m3 ?? 0, view.points.at(-1)?.volume_m3 ?? 0, 1e-6);
  const axis = show.axis(most, "volume_m3");
  const litres = (m3: number) => m3 * axis.factor;
  const widest = litres(most);
  const highest = Math.max(view.without_air.at(-1)?.pressure_pa ?? 1e5, view.points.at(-1)?.pressure_pa ?? 0);
  const x = scaleLinear()
    .domain([0, widest * 1.04])
    .range([LEFT, W - RIGHT]);
  const y = scaleLinear()
    .domain([0, inUnit(highest * 1.04, unit)])
    .range([H - BOTTOM, TOP]);
  const at = (p: Schema["PumpingPoint"]) => `${x(litres(p.volume_m3)).toFixed(1)},${y(inUnit(p.pressure_pa, unit)).toFixed(1)}`;
  const last = view.points.at(-1);
  const band = [...view.without_air, ...[...view.with_air].reverse()];
  const says = last
    ? `${view.points.length} points up to ${show.n(last.pressure_pa)} ${show.symbol} at ${show.of(last.volume_m3, "volume_m3")}. ${view.sentence}`
    : view.sentence;
  return (
    <svg viewBox={`0 0 ${W} ${H}`} className="block w-full" role="img" aria-label={`Pumping curve, pressure against volume pumped: ${says}`}>
      <rect x={LEFT} y={TOP} width={W - LEFT - RIGHT} height={H - TOP - BOTTOM} className="fill-chart" />
      {x.ticks(5).map((t) => (
        <g key={t}>
          <line x1={x(t)} x2={x(t)} y1={TOP} y2={H - BOTTOM} className="stroke-grid" />
          <text x={x(t)} y={H - BOTTOM + 15} textAnchor="middle" className="fill-soft font-mono text-xs">
            {x.tickFormat(5)(t)}
          </text>
        </g>
      ))}
      {y.ticks(5).map((t) => (
        <g key={t}>
          <line x1={LEFT} x2={W - RIGHT} y1={y(t)} y2={y(t)} className="stroke-grid" />
          <text x={LEFT - 6} y={y(t) + 4} textAnchor="end" className="fill-soft font-mono text-xs">
            {y.tickFormat(5)(t)}
          </text>
        </g>
      ))}
      <polygon points={band.map(at).join(" ")} className="fill-wash stroke-water" strokeOpacity="0.45" />
      <text x={x(litres(view.with_air.at(-1)?.volume_m3 ?? 0)) - 6} y={H - BOTTOM - 10} textAnchor="end" className="fill-water text-xs font-semibold">
        band: 0 to {100 * view.limit} % air
      </text>
      {target !== undefined ? (
        <line x1={LEFT} x2={W - RIGHT} y1={y(inUnit(target, unit))} y2={y(inUnit(target, unit))} className="stroke-water" strokeDasharray="6 4" strokeWidth="1.5" />
      ) : null}
      <polyline points={view.points.map(at).join(" ")} className="stroke-ink" strokeWidth="2" fill="none" />
      {view.points.length <= 60
        ? view.points.map((p) => <circle key={p.volume_m3} cx={x(litres(p.volume_m3))} cy={y(inUnit(p.pressure_pa, unit))} r="2.4" className="fill-ink" />)
        : null}
      {last ? <circle cx={x(litres(last.volume_m3))} cy={y(inUnit(last.pressure_pa, unit))} r="5" className="fill-ink" /> : null}
      <text x={W - RIGHT} y={H - 4} textAnchor="end" className="fill-soft text-xs">
        {axis.symbol} pumped
      </text>
      <text x={LEFT - 6} y={TOP - 3} textAnchor="end" className="fill-soft text-xs">
        {show.symbol}
      </text>
    </svg>
  );
}
