import type { Schema } from "../api/client";

/** One channel over time, in time order. */
export interface Channel {
  t: Float64Array;
  v: Float64Array;
}

/** Every reading of a run. */
export interface Series {
  pressure: Channel;
  temperature: Channel;
}

export const NO_READINGS: Channel = { t: new Float64Array(), v: new Float64Array() };

/** Reads what the server sends: two channels one after the other, each a count and as many pairs of time and value, little-endian. */
export function decode(buffer: ArrayBuffer): Series {
  const bytes = new DataView(buffer);
  let at = 0;
  const channel = (): Channel => {
    if (at + 4 > bytes.byteLength) return NO_READINGS;
    const count = bytes.getUint32(at, true);
    at += 4;
    if (at + 16 * count > bytes.byteLength) throw new TypeError("the readings came incomplete");
    const [t, v] = [new Float64Array(count), new Float64Array(count)];
    for (let i = 0; i < count; i++, at += 16) {
      t[i] = bytes.getFloat64(at, true);
      v[i] = bytes.getFloat64(at + 8, true);
    }
    return { t, v };
  };
  const pressure = channel();
  return { pressure, temperature: channel() };
}

export function fromPoints(points: readonly Schema["Point"][]): Channel {
  return { t: Float64Array.from(points, (p) => p.t_s), v: Float64Array.from(points, (p) => p.value) };
}

/** A channel in two, what is later than `t` by itself: between the last reading of a hold and the next one at zero nobody knows the way. */
export function parted(channel: Channel, t: number): Channel[] {
  let at = placeOf(channel.t, t);
  while (at < channel.t.length && (channel.t[at] ?? 0) <= t) at++;
  if (at === 0 || at >= channel.t.length) return [channel];
  return [
    { t: channel.t.subarray(0, at), v: channel.v.subarray(0, at) },
    { t: channel.t.subarray(at), v: channel.v.subarray(at) },
  ];
}

/** First place whose time is not before `t`. */
export function placeOf(times: Float64Array, t: number): number {
  let [lo, hi] = [0, times.length];
  while (lo < hi) {
    const mid = (lo + hi) >> 1;
    if ((times[mid] ?? 0) < t) lo = mid + 1;
    else hi = mid;
  }
  return lo;
}

/** Readings of one block. */
export const BLOCK = 64;

/** Of each block the places of its least and its greatest reading, kept with the channel so that panning need not look at every reading. */
const kept = new WeakMap<Float64Array, { low: Uint32Array; high: Uint32Array }>();

export function blocksOf(c: Channel): { low: Uint32Array; high: Uint32Array } {
  const known = kept.get(c.v);
  if (known) return known;
  const n = Math.ceil(c.v.length / BLOCK);
  const made = { low: new Uint32Array(n), high: new Uint32Array(n) };
  for (let b = 0; b < n; b++) {
    let [low, high] = [b * BLOCK, b * BLOCK];
    for (let i = low + 1; i < Math.min(c.v.length, (b + 1) * BLOCK); i++) {
      if ((c.v[i] ?? 0) < (c.v[low] ?? 0)) low = i;
      if ((c.v[i] ?? 0) > (c.v[high] ?? 0)) high = i;
    }
    made.low[b] = low;
    made.high[b] = high;
  }
  kept.set(c.v, made);
  return made;
}

/** Places of the least and the greatest reading from place `a` up to before `b`; `a` must lie before `b`. */
export function extremes(c: Channel, a: number, b: number): [number, number] {
  const blocks = blocksOf(c);
  let [low, high] = [a, a];
  let i = a;
  while (i < b) {
    const whole = i % BLOCK === 0 && i + BLOCK <= b;
    const [l, h] = whole ? [blocks.low[i / BLOCK] ?? i, blocks.high[i / BLOCK] ?? i] : [i, i];
    if ((c.v[l] ?? 0) < (c.v[low] ?? 0)) low = l;
    if ((c.v[h] ?? 0) > (c.v[high] ?? 0)) high = h;
    i += whole ? BLOCK : 1;
  }
  return [low, high];
}

/** Least and greatest value between two times, both included; none where nothing was read. */
export function extent(c: Channel, from: number, to: number): [number, number] | null {
  const a = placeOf(c.t, from);
  let b = placeOf(c.t, to);
  while (b < c.t.length && c.t[b] === to) b++;
  if (a >= b) return null;
  const [low, high] = extremes(c, a, b);
  return [c.v[low] ?? 0, c.v[high] ?? 0];
}

/** The reading nearest to a time; none where there is none. */
export function nearest(c: Channel, t: number): { t_s: number; value: number } | undefined {
  const i = placeOf(c.t, t);
  const before = i > 0 && (i === c.t.length || t - (c.t[i - 1] ?? 0) <= (c.t[i] ?? 0) - t) ? i - 1 : i;
  return before < c.t.length ? { t_s: c.t[before] ?? 0, value: c.v[before] ?? 0 } : undefined;
}

/** Adds what came since: readings after the last one that is there. */
export function extended(c: Channel, points: readonly { t_s: number; value: number }[]): Channel {
  const last = c.t.at(-1) ?? Number.NEGATIVE_INFINITY;
  const fresh = points.filter((p) => p.t_s > last + 1e-6);
  if (fresh.length === 0) return c;
  const [t, v] = [new Float64Array(c.t.length + fresh.length), new Float64Array(c.t.length + fresh.length)];
  t.set(c.t);
  v.set(c.v);
  fresh.forEach((p, i) => {
    t[c.t.length + i] = p.t_s;
    v[c.t.length + i] = p.value;
  });
  return { t, v };
}
