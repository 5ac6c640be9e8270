import type { Schema } from "../api/client";
import { type Figures, useFigures } from "../units";

type Gas = Schema["GasFigures"];

const W = 430;
const H = 250;

/** Energy of the gas beside that of water on one scale of area, and the distance to keep drawn round the system with things of known size. */
export function GasPictures({ gas }: { gas: Gas }) {
  const show = useFigures();
  if (gas.energy_ideal_j == null || gas.distance_m == null) return null;
  return (
    <div className="grid gap-6 lg:grid-cols-2">
      <Areas gas={gas.energy_ideal_j} water={gas.energy_water_j ?? null} show={show} />
      <Ring radius={gas.distance_m} fixed={gas.distance_fixed_m ?? gas.distance_m} show={show} />
    </div>
  );
}

function Areas({ gas, water, show }: { gas: number; water: number | null; show: Figures }) {
  const energy = (j: number) => show.of(j, "energy_j");
  const side = 200;
  const small = water == null ? 0 : side * Math.sqrt(water / gas);
  return (
    <figure className="m-0">
      <svg
        viewBox={`0 0 ${W} ${H}`}
        className="block w-full"
        role="img"
        aria-label={`Stored energy on one scale of area: gas ${energy(gas)}${water == null ? "" : `, water ${energy(water)}`}`}
      >
        <rect x="0" y="0" width={W} height={H} className="fill-chart" />
        <rect x="20" y={H - 20 - side} width={side} height={side} className="fill-dangerwash stroke-danger" strokeWidth="2" />
        <text x="32" y={H - 20 - side + 26} className="fill-ink text-base font-semibold">
          gas
        </text>
        <text x="32" y={H - 20 - side + 48} className="fill-ink font-mono text-base">
          {energy(gas)}
        </text>
        {water == null ? null : (
          <>
            <rect x="270" y={H - 20 - Math.max(small, 1.5)} width={Math.max(small, 1.5)} height={Math.max(small, 1.5)} className="fill-water" />
            <line x1={270 + small + 4} x2="300" y1={H - 22 - small / 2} y2={H - 60} className="stroke-soft" />
            <text x="282" y={H - 86} className="fill-ink text-base font-semibold">
              water
            </text>
            <text x="282" y={H - 66} className="fill-ink font-mono text-base">
              {energy(water)}
            </text>
          </>
        )}
      </svg>
      <figcaption className="mt-1 text-sm">
        Energy as area, one scale{water == null ? "." : `: the gas stores ${show.of(gas / water, "number")} times what water would.`}
      </figcaption>
    </figure>
  );
}

/** Things whose size people know, m: length and breadth on the ground. */
const KNOWN = [
  ["football pitch", 105, 68],
  ["tennis court", 24, 11],
  ["lorry", 16, 2.5],
] as const;

function Ring({ radius, fixed, show }: { radius: number; fixed: number; show: Figures }) {
  const far = show.of(radius, "length_m", "up");
  const scale = (H / 2 - 26) / radius;
  const [name, long, wide] = KNOWN.find(([, l]) => l <= radius * 1.9) ?? KNOWN[2];
  const cx = W / 2 - 30;
  const cy = H / 2 + 4;
  const step = [5, 10, 20, 50, 100, 200].find((s) => s * scale > 36) ?? 200;
  return (
    <figure className="m-0">
      <svg viewBox={`0 0 ${W} ${H}`} className="block w-full" role="img" aria-label={`Nobody within ${far} of the system`}>
        <rect x="0" y="0" width={W} height={H} className="fill-chart" />
        <circle cx={cx} cy={cy} r={radius * scale} className="fill-dangerwash stroke-danger" strokeWidth="2.5" strokeDasharray="10 5" />
        {fixed < radius ? <circle cx={cx} cy={cy} r={fixed * scale} fill="none" className="stroke-limit" strokeDasharray="3 4" /> : null}
        <rect x={cx - (long * scale) / 2} y={cy - (wide * scale) / 2} width={long * scale} height={wide * scale} fill="none" className="stroke-soft" />
        <text
          x={cx}
          y={cy + (wide * scale) / 2 + 15}
          textAnchor="middle"
          className="fill-soft text-xs"
          style={{ paintOrder: "stroke", stroke: "var(--color-chart)", strokeWidth: 3 }}
        >
          {name}, {show.of(long, "length_m")}
        </text>
        <circle cx={cx} cy={cy} r="4" className="fill-danger" />
        <line x1={cx} x2={cx + radius * scale} y1={cy} y2={cy} className="stroke-danger" strokeWidth="1.5" />
        <text x={cx + radius * scale + 8} y={cy + 5} className="fill-ink font-mono text-base font-semibold">
          {far}
        </text>
        <line x1="16" x2={16 + step * scale} y1={H - 14} y2={H - 14} className="stroke-ink" strokeWidth="2" />
        <text x="16" y={H - 20} className="fill-soft text-xs">
          {show.of(step, "length_m")}
        </text>
      </svg>
      <figcaption className="mt-1 text-sm">Nobody inside the ring while gas is in it. Fragments fly farther still.</figcaption>
    </figure>
  );
}
