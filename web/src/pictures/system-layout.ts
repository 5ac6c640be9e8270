import { forceCollide, forceSimulation, forceX, forceY, type SimulationNodeDatum } from "d3-force";
import type { Schema } from "../api/client";

export type SystemLook = Schema["SystemLook"];
type PartLook = SystemLook["parts"][number];

/** True for what leads from one point to another. */
export const runs = (p: PartLook) => p.from !== p.to;

/** Where each point stands on the sheet: distance along the line across, true height upward. */
export interface Layout {
  x: number[];
  y: (height_m: number) => number;
  ends: { left: number; right: number; top: number; bottom: number };
  /** How many times as tall heights are drawn as lengths are long. */
  stretch: number;
  low: number;
  high: number;
}

interface Sheet {
  width: number;
  height: number;
  left: number;
  right: number;
  top: number;
  bottom: number;
}

interface Node extends SimulationNodeDatum {
  wanted: number;
}

/** Distance along the line of each point from where it begins, m; what hangs on nothing follows behind. */
export function distances(look: SystemLook): { at: number[]; most: number } {
  const n = look.points.length;
  const edges = look.parts
    .filter(runs)
    .map((p) => ({ a: p.from, b: p.to, l: p.length_m ?? 0 }))
    .concat(look.steps.map(([a = 0, b = 0]) => ({ a, b, l: 0 })));
  const z = (p: number) => look.points[p]?.height_m ?? 0;
  const across = (e: { a: number; b: number; l: number }) => Math.sqrt(Math.max(0, e.l ** 2 - (z(e.a) - z(e.b)) ** 2));
  const sum = edges.reduce((s, e) => s + across(e), 0);
  // what is short is drawn long enough to be seen
  const least = Math.max(sum / Math.max(edges.length * 2.5, 1), sum > 0 ? 0 : 1);
  const next: { to: number; l: number }[][] = Array.from({ length: n }, () => []);
  for (const e of edges) {
    const l = Math.max(across(e), least);
    next[e.a]?.push({ to: e.b, l });
    next[e.b]?.push({ to: e.a, l });
  }
  const at: number[] = new Array(n).fill(Number.NaN);
  const begins = look.parts.find((p) => p.drawn === "fill")?.from ?? look.parts[0]?.from ?? 0;
  let behind = 0;
  for (const start of [begins, ...at.keys()]) {
    if (!Number.isNaN(at[start] ?? 0)) continue;
    // shortest way along the line; a few hundred points, so that a plain search does
    const open = new Map([[start, behind]]);
    while (open.size) {
      const [p, d] = [...open].reduce((best, e) => (e[1] < best[1] ? e : best));
      open.delete(p);
      at[p] = d;
      for (const { to, l } of next[p] ?? []) {
        if (Number.isNaN(at[to]) && d + l < (open.get(to) ?? Number.POSITIVE_INFINITY)) open.set(to, d + l);
      }
    }
    behind = Math.max(...at.filter((d) => !Number.isNaN(d))) + least * 2;
  }
  return { at, most: Math.max(...at, least) };
}

/** Lays a system out: branches that would lie on each other are fanned out along the line, heights stay true. */
export function layOut(look: SystemLook, sheet: Sheet): Layout {
  const { at, most } = distances(look);
  const heights = look.points.map((p) => p.height_m);
  const [low, high] = [Math.min(...heights), Math.max(...heights)];
  const room = { x: sheet.width - sheet.left - sheet.right, y: sheet.height - sheet.top - sheet.bottom };
  const perM = { x: room.x / most, y: room.y / Math.max(high - low, 0.5) };
  const y = (z: number) => sheet.height - sheet.bottom - (z - low) * perM.y;
  const nodes: Node[] = look.points.map((p, i) => {
    const wanted = sheet.left + (at[i] ?? 0) * perM.x;
    return { wanted, x: wanted, fy: y(p.height_m), y: y(p.height_m) };
  });
  const simulation = forceSimulation(nodes)
    .force("x", forceX<Node>((d) => d.wanted).strength(0.6))
    .force(
      "y",
      forceY<Node>((d) => d.fy ?? 0),
    )
    .force("apart", forceCollide<Node>(13))
    .stop();
  simulation.tick(look.points.length > 400 ? 40 : 160);
  // what was pushed over an edge draws the others together, so that nothing comes to lie on anything
  const xs = nodes.map((d) => d.x ?? d.wanted);
  const [first, last] = [Math.min(sheet.left, ...xs), Math.max(sheet.width - sheet.right, ...xs)];
  const keep = (x: number) => sheet.left + ((x - first) / (last - first)) * room.x;
  return {
    x: xs.map(keep),
    y,
    ends: { left: sheet.left, right: sheet.width - sheet.right, top: sheet.top, bottom: sheet.height - sheet.bottom },
    stretch: perM.y / perM.x,
    low,
    high,
  };
}
