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

/** Least and greatest value between two times; none where nothing was read. */
export function extent(c: Channel, from: number, to: number): [number, number] | null {
  const [a, b] = [placeOf(c.t, from), placeOf(c.t, to)];
  let [low, high] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
  for (let i = a; i < b || (i < c.t.length && c.t[i] === to); i++) {
    const v = c.v[i] ?? 0;
    if (v < low) low = v;
    if (v > high) high = v;
  }
  return low <= high ? [low, high] : null;
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
