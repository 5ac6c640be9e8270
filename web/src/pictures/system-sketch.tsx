import { scaleLinear } from "d3-scale";
import { type KeyboardEvent, type MouseEvent, useEffect, useMemo, useRef, useState } from "react";
import type { Derived, Pack } from "../api/client";
import { inUnit, useFigures } from "../units";
import { type Layout, layOut, runs, type SystemLook } from "./system-layout";
import { Mark, MARKS } from "./system-marks";

/** What the picture shows: the water rising, what sees the pressure, the water running off. */
export const PHASES = ["fill", "test", "drain"] as const;
export type ShownPhase = (typeof PHASES)[number];

const H = 390;
const LEFT = 96;
const RIGHT = 40;
const TOP = 40;
const BOTTOM = 52;
/** Width of the limits beside it. */
const LIMITS = 210;
/** Room that a mark and its name want along the line. */
const EACH = 17;

interface Props {
  pack: Pack;
  look: SystemLook;
  phase: ShownPhase;
  /** Which moment of the filling or the draining. */
  moment: number;
  zoom: number;
  picked: string;
  onPick: (tag: string) => void;
}

/** Where the marks of a point stand about it: vents above, drains below, the others in a row beneath. */
function beside(look: SystemLook, layout: Layout): Map<string, { x: number; y: number }> {
  const all = new Map<string, { x: number; y: number }>();
  const taken = new Map<string, number>();
  for (const p of look.parts.filter((q) => !runs(q))) {
    const x = layout.x[p.from] ?? 0;
    const y = layout.y(look.points[p.from]?.height_m ?? 0);
    const side = p.drawn === "vent" ? "up" : p.drawn === "drain" ? "down" : p.drawn === "blind" ? "end" : "round";
    const n = taken.get(`${p.from} ${side}`) ?? 0;
    taken.set(`${p.from} ${side}`, n + 1);
    if (side === "up") all.set(p.tag, { x: x + n * 12, y: y - 3 });
    else if (side === "down") all.set(p.tag, { x: x + n * 12, y: y + 3 });
    else if (side === "end") all.set(p.tag, { x: x + n * 8, y });
    else all.set(p.tag, { x: x - 20 - (n % 2) * 20, y: y + 14 + Math.floor(n / 2) * 20 });
  }
  return all;
}

/** Width of what the picture stands in. */
function useWidth() {
  const ref = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(640);
  useEffect(() => {
    if (!ref.current || typeof ResizeObserver === "undefined") return;
    const watch = new ResizeObserver(([entry]) => entry && setWidth(Math.floor(entry.contentRect.width)));
    watch.observe(ref.current);
    return () => watch.disconnect();
  }, []);
  return [ref, width] as const;
}

/** Width of a letter of a name, rather too wide than too narrow. */
const LETTER = 7.3;

interface Box {
  x0: number;
  x1: number;
  y0: number;
  y1: number;
}
/** Puts a name where no other stands; none where there is no room, the table has it. */
function nameAt(taken: Box[], width: number, text: string, places: readonly (readonly [number, number])[], must: boolean) {
  const box = (x: number, y: number): Box => ({ x0: x, x1: x + text.length * LETTER, y0: y - 11, y1: y + 3 });
  const free = (b: Box) => !taken.some((t) => b.x0 < t.x1 && b.x1 > t.x0 && b.y0 < t.y1 && b.y1 > t.y0);
  const place = places.find(([x, y]) => x > 2 && x + text.length * LETTER < width - 2 && free(box(x, y))) ?? (must ? places[0] : undefined);
  if (place) taken.push(box(...place));
  return place;
}

/** The system as a profile: distance along the line across, true height upward; its water, its air, its marks, and beside it what each part needs and bears. */
export function SystemSketch({ pack, look, phase, moment, zoom, picked, onPick }: Props) {
  const show = useFigures(pack);
  const marks = look.parts.filter((p) => p.drawn !== "pipe").length;
  const [frame, room] = useWidth();
  const W = Math.max(room, Math.min(look.parts.length * EACH, 6000) + LEFT + RIGHT) * zoom;
  const layout = useMemo(() => layOut(look, { width: W, height: H, left: LEFT, right: RIGHT, top: TOP, bottom: BOTTOM }), [look, W]);
  const sits = useMemo(() => beside(look, layout), [look, layout]);
  const y = (point: number) => layout.y(look.points[point]?.height_m ?? 0);
  const x = (point: number) => layout.x[point] ?? 0;
  const water = phase === "fill" ? look.filling[moment] : phase === "drain" ? look.draining[moment] : undefined;
  const scale = show.unitFor("length_m");
  const ticks = scaleLinear()
    .domain([layout.low * scale.factor, layout.high * scale.factor])
    .ticks(5);
  const found = useMemo(() => {
    const at = new Map<number, number[]>();
    look.findings.forEach((f, i) => {
      const point = f.points[0];
      if (point !== undefined) at.set(point, [...(at.get(point) ?? []), i + 1]);
    });
    return at;
  }, [look]);
  const air = phase === "fill" ? look.pockets.map((p) => ({ point: p.point, words: `air ${show.of(p.volume_m3, "volume_m3")}` })) : [];
  const left = phase === "drain" ? look.left.map((l) => ({ point: l.point, words: `water ${show.of(l.volume_m3, "volume_m3")}` })) : [];
  const order = look.parts.map((p) => p.tag);
  const walk = (e: KeyboardEvent) => {
    const step = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1, PageDown: 10, PageUp: -10 }[e.key];
    if (step === undefined && e.key !== "Home" && e.key !== "End") return;
    e.preventDefault();
    const at = order.indexOf(picked);
    const to = e.key === "Home" ? 0 : e.key === "End" ? order.length - 1 : Math.min(order.length - 1, Math.max(0, at + (step ?? 0)));
    onPick(order[to] ?? "");
  };

  const point = (e: MouseEvent) => {
    const part = (e.target as Element).closest("[data-part]")?.getAttribute("data-part");
    if (part) onPick(part);
  };

  const taken: Box[] = [];
  for (const p of sits.values()) taken.push({ x0: p.x - 9, x1: p.x + 9, y0: p.y - 9, y1: p.y + 9 });
  for (const p of look.parts.filter((q) => runs(q) && q.drawn !== "pipe")) {
    const [cx, cy] = [(x(p.from) + x(p.to)) / 2, (y(p.from) + y(p.to)) / 2];
    taken.push({ x0: cx - 8, x1: cx + 8, y0: cy - 9, y1: cy + 9 });
  }
  // what must be read first gets its place first
  const told = [...air, ...left].map((t) => ({
    ...t,
    place: nameAt(
      taken,
      W,
      t.words,
      [
        [x(t.point) + 12, y(t.point) - 14],
        [x(t.point) - 70, y(t.point) - 14],
        [x(t.point) + 12, y(t.point) + 26],
      ],
      true,
    ),
  }));
  const badges = [...found].map(([at, numbers]) => {
    const words = numbers.join(", ");
    const w = words.length * LETTER;
    const [cx, cy] = [x(at), y(at)];
    const places = [14, 26, 40, 56].flatMap((d): [number, number][] => [
      [cx - w / 2, cy + d + 6],
      [cx + 10, cy + d - 4],
      [cx - w - 10, cy + d - 4],
      [cx - w / 2, cy - d],
    ]);
    return { at, words, w, place: nameAt(taken, W, words, places, true) ?? [cx, cy] };
  });
  const many = look.parts.length > 120;
  const names = look.parts
    .filter((p) => !many || p.tag === picked || p.drawn === "shut_valve" || p.drawn === "blind")
    .map((p) => {
      const s = sits.get(p.tag);
      const [cx, cy] = s ? [s.x, s.y] : [(x(p.from) + x(p.to)) / 2, (y(p.from) + y(p.to)) / 2];
      const w = p.tag.length * LETTER;
      const places: [number, number][] = s
        ? p.drawn === "vent"
          ? [
              [cx + 9, cy - 12],
              [cx - w - 9, cy - 12],
              [cx - w / 2, cy - 26],
            ]
          : p.drawn === "drain"
            ? [
                [cx + 9, cy + 20],
                [cx - w - 9, cy + 20],
                [cx - w / 2, cy + 34],
              ]
            : [
                [cx + 12, cy + 4],
                [cx - w - 12, cy + 4],
                [cx - w / 2, cy - 14],
                [cx - w / 2, cy + 24],
              ]
        : [
            [cx - w / 2, cy - 12],
            [cx - w / 2, cy + 19],
            [cx + 12, cy + 4],
            [cx - w - 12, cy + 4],
          ];
      return { part: p, place: nameAt(taken, W, p.tag, places, p.tag === picked) };
    });

  return (
    <div className="grid min-w-0 grid-cols-[minmax(0,1fr)] gap-2">
      {/* biome-ignore lint/a11y/useKeyWithClickEvents: the sketch within takes the keys */}
      {/* biome-ignore lint/a11y/noStaticElementInteractions: the table beneath tells the same */}
      <div className="flex gap-0" onClick={point}>
        <div
          ref={frame}
          className="min-w-0 flex-1 overflow-x-auto border border-hair bg-chart focus-visible:outline-2"
          role="region"
          aria-label="Sketch of the system, moved sideways where it is long"
          tabIndex={0}
          onKeyDown={walk}
          data-sketch
        >
          <svg width={W} height={H} viewBox={`0 0 ${W} ${H}`} role="img" aria-label={`Sketch of the system: ${look.parts.length} parts, ${marks} of them marks`}>
            {ticks.map((t) => (
              <g key={t}>
                <path d={`M${LEFT - 14} ${layout.y(t / scale.factor)}H${W - 8}`} stroke="var(--color-grid)" />
                <text x={LEFT - 20} y={layout.y(t / scale.factor) + 4} textAnchor="end" fontSize={12} className="num" fill="var(--color-soft)">
                  {t}
                </text>
              </g>
            ))}
            <text x={8} y={20} fontSize={12} fill="var(--color-soft)">
              height, {scale.symbol}
            </text>
            {water ? <path d={`M${LEFT - 14} ${layout.y(water.level_m)}H${W - 8}`} stroke="var(--color-water)" strokeDasharray="1 5" strokeWidth={1.5} /> : null}
            {look.steps.map(([a = 0, b = 0]) => (
              <path key={`${a} ${b}`} d={`M${x(a)} ${y(a)}L${x(b)} ${y(b)}`} stroke="var(--color-limit)" strokeDasharray="3 5" strokeWidth={2} />
            ))}
            {look.parts.map((p, i) => {
              if (!runs(p)) return null;
              const body = p.drawn === "vessel";
              const [a, b] = [
                { x: x(p.from), y: y(p.from) },
                { x: x(p.to), y: y(p.to) },
              ];
              const [low, high] = a.y >= b.y ? [a, b] : [b, a];
              const share = water ? (water.shares[i] ?? 0) : 0;
              const level = Math.abs(a.y - b.y) < 0.5;
              const full = level ? (share > 0.5 ? 1 : 0) : share;
              const wide = body ? 16 : 5;
              const tone = phase === "test" ? (p.pressed ? "var(--color-water)" : "var(--color-rule)") : "var(--color-rule)";
              return (
                <g key={p.tag} className="cursor-pointer" data-part={p.tag}>
                  <path d={`M${a.x} ${a.y}L${b.x} ${b.y}`} stroke="transparent" strokeWidth={18} />
                  {p.tag === picked ? (
                    <path d={`M${a.x} ${a.y}L${b.x} ${b.y}`} stroke="var(--color-limit)" strokeWidth={wide + 7} strokeLinecap="round" opacity={0.45} />
                  ) : null}
                  <path
                    d={`M${a.x} ${a.y}L${b.x} ${b.y}`}
                    stroke={tone}
                    strokeWidth={wide}
                    strokeLinecap="round"
                    strokeDasharray={p.beyond || (phase === "test" && !p.pressed) ? "2 7" : undefined}
                  />
                  {phase === "test" ? null : <path d={`M${a.x} ${a.y}L${b.x} ${b.y}`} stroke="var(--color-chart)" strokeWidth={wide - 2.4} strokeLinecap="round" />}
                  {full > 0 ? (
                    <path
                      d={`M${low.x} ${low.y}L${low.x + (high.x - low.x) * full} ${low.y + (high.y - low.y) * full}`}
                      stroke="var(--color-water)"
                      strokeWidth={wide}
                      strokeLinecap="round"
                    />
                  ) : null}
                  {["pipe", "vessel"].includes(p.drawn) ? null : (
                    <g color={p.pressed ? "var(--color-ink)" : "var(--color-soft)"}>
                      <Mark drawn={p.drawn} x={(a.x + b.x) / 2} y={(a.y + b.y) / 2} angle={(Math.atan2(b.y - a.y, b.x - a.x) * 180) / Math.PI} />
                    </g>
                  )}
                  <title>{`${p.tag}, ${p.what}${p.position ? `, ${p.position}` : ""}`}</title>
                </g>
              );
            })}
            {look.points.map((p, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: the points of one look never move
              <circle key={i} cx={x(i)} cy={y(i)} r={2.4} fill={p.unmeasured ? "var(--color-limit)" : "var(--color-ink)"} />
            ))}
            {look.parts.map((p) => {
              const s = sits.get(p.tag);
              if (!s) return null;
              const round = !["vent", "drain", "blind"].includes(p.drawn);
              return (
                <g key={p.tag} className="cursor-pointer" data-part={p.tag} color={p.tag === picked ? "var(--color-limit)" : "var(--color-ink)"}>
                  {round ? <path d={`M${x(p.from)} ${y(p.from)}L${s.x} ${s.y}`} stroke="currentColor" strokeWidth={1.2} /> : null}
                  <circle cx={s.x} cy={s.y} r={13} fill="transparent" />
                  <Mark drawn={p.drawn} x={s.x} y={s.y} />
                  <title>{`${p.tag}, ${p.what}${p.position ? `, ${p.position}` : ""}`}</title>
                </g>
              );
            })}
            {[...air, ...left].map((t) => (
              <circle key={t.words + t.point} cx={x(t.point)} cy={y(t.point)} r={9} fill="none" stroke="var(--color-limit)" strokeWidth={2} strokeDasharray="3 3" />
            ))}
            {told.map((t) =>
              t.place ? (
                <text key={t.words + t.point} x={t.place[0]} y={t.place[1]} fontSize={12.5} fontWeight={700} fill="var(--color-limit)">
                  {t.words}
                </text>
              ) : null,
            )}
            {names.map(({ part, place }) =>
              place ? (
                <text
                  key={part.tag}
                  x={place[0]}
                  y={place[1]}
                  fontSize={12}
                  fontWeight={part.tag === picked ? 700 : 400}
                  fill="var(--color-ink)"
                  stroke="var(--color-chart)"
                  strokeWidth={3}
                  paintOrder="stroke"
                >
                  {part.tag}
                </text>
              ) : null,
            )}
            {badges.map(({ at, words, w, place: [bx = 0, by = 0] }) => (
              <g key={at} data-finding={words}>
                <path d={`M${x(at)} ${y(at)}L${bx + w / 2} ${by - 4}`} stroke="var(--color-limit)" strokeWidth={1} />
                <rect x={bx - 4} y={by - 12} rx={3} height={16} width={w + 8} fill="var(--color-limitwash)" stroke="var(--color-limit)" />
                <text x={bx + w / 2} y={by} textAnchor="middle" fontSize={11.5} fontWeight={700} fill="var(--color-limit)">
                  {words}
                </text>
              </g>
            ))}
          </svg>
        </div>
        {pack.derived && look.parts.length <= 300 ? <Limits pack={pack} derived={pack.derived} look={look} layout={layout} picked={picked} /> : null}
      </div>
      <p className="m-0 flex flex-wrap items-center gap-x-4 gap-y-1 text-sm text-soft">
        {MARKS.filter(([d]) => look.parts.some((p) => p.drawn === d)).map(([d, words]) => (
          <span key={d} className="inline-flex items-center gap-1">
            <svg width={24} height={24} aria-hidden="true">
              <g color="var(--color-ink)">
                <Mark drawn={d} x={12} y={d === "vent" ? 21 : d === "drain" ? 3 : 12} />
              </g>
            </svg>
            {words}
          </span>
        ))}
        <span>
          {layout.stretch >= 1.5
            ? `Heights are drawn about ${layout.stretch.toFixed(layout.stretch < 10 ? 1 : 0)} times as tall as lengths are long; what is short is drawn longer than it is.`
            : "What is short is drawn longer than it is."}
        </span>
      </p>
    </div>
  );
}

/** What each part needs and bears, on the same heights: the planned pressure is one slanting line that passes through every bar. */
function Limits({ pack, derived, look, layout, picked }: { pack: Pack; derived: Derived; look: SystemLook; layout: Layout; picked: string }) {
  const show = useFigures(pack);
  const bars = look.parts.filter((p) => p.needs_pa != null && p.bears_pa != null);
  const planned = derived.day?.planned_pa ?? derived.lower_pa;
  const at = (z: number) => planned + derived.column_pa_per_m * (pack.gauge.elevation_m - z);
  const [lowest, highest] = [at(layout.high), at(layout.low)];
  const span = Math.max(highest - lowest, planned * 0.15);
  const from = Math.max(0, Math.min(lowest, ...bars.map((b) => b.needs_pa ?? 0)) - span * 0.3);
  const to = highest + span * 1.2;
  const px = scaleLinear()
    .domain([inUnit(from, show.unit), inUnit(to, show.unit)])
    .range([12, LIMITS - 10])
    .clamp(true);
  const x = (pa: number) => px(inUnit(pa, show.unit));
  return (
    <svg
      width={LIMITS}
      height={H}
      className="shrink-0 border border-l-0 border-hair bg-chart max-[800px]:hidden"
      role="img"
      aria-label={`Planned ${show.p(planned)} at the gauge; what each part needs and bears at its height`}
    >
      <text x={12} y={20} fontSize={12} fill="var(--color-soft)">
        needs to bears, {show.symbol}
      </text>
      {bars.map((b) => {
        const z = look.points[b.from]?.height_m ?? 0;
        const row = layout.y(z);
        const missed = at(z) < (b.needs_pa ?? 0) - 1 || at(z) > (b.bears_pa ?? 0) + 1;
        const tone = missed ? "var(--color-danger)" : b.tag === picked ? "var(--color-limit)" : "var(--color-rule)";
        return (
          <g key={b.tag} data-part={b.tag} className="cursor-pointer" color={tone}>
            <path d={`M${x(b.needs_pa ?? 0)} ${row}H${x(b.bears_pa ?? 0)}`} stroke="currentColor" strokeWidth={b.tag === picked ? 3 : 1.2} opacity={0.7} />
            <path d={`M${x(b.needs_pa ?? 0)} ${row - 4}v8`} stroke="currentColor" strokeWidth={2.5} />
            {(b.bears_pa ?? 0) < to ? <path d={`M${x(b.bears_pa ?? 0)} ${row - 4}v8`} stroke="currentColor" strokeWidth={2.5} /> : null}
            <title>{`${b.tag}: needs ${show.free(b.needs_pa ?? 0, "up")}, bears ${show.free(b.bears_pa ?? 0, "down")}`}</title>
          </g>
        );
      })}
      <path d={`M${x(at(layout.high))} ${layout.y(layout.high)}L${x(at(layout.low))} ${layout.y(layout.low)}`} stroke="var(--color-water)" strokeWidth={3} />
      {px
        .ticks(3)
        .filter((t) => px(t) > 24 && px(t) < LIMITS - 26)
        .map((t) => (
          <text key={t} x={px(t)} y={H - 14} textAnchor="middle" fontSize={12} className="num" fill="var(--color-soft)">
            {t}
          </text>
        ))}
    </svg>
  );
}
