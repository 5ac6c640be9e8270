import { type Channel, extremes, placeOf } from "./series";

/**
 * What a line of `columns` pixels can show of a channel between two times: of each column its first, least, greatest and last reading, in
 * the order in which they came, so that every peak stays. Where there are no more readings than that, every one. One reading before and one after
 * are kept, so that the line runs to the edges. Returned as pairs of time and value.
 */
export function decimate(c: Channel, from: number, to: number, columns: number): Float64Array {
  const a = Math.max(0, placeOf(c.t, from) - 1);
  const b = Math.min(c.t.length, placeOf(c.t, to) + 1);
  const n = b - a;
  if (n <= 4 * columns) {
    const all = new Float64Array(2 * Math.max(0, n));
    for (let i = 0; i < n; i++) {
      all[2 * i] = c.t[a + i] ?? 0;
      all[2 * i + 1] = c.v[a + i] ?? 0;
    }
    return all;
  }
  const out = new Float64Array(8 * (columns + 2));
  let used = 0;
  const put = (i: number) => {
    if (used > 0 && out[used - 2] === c.t[i] && out[used - 1] === c.v[i]) return;
    out[used++] = c.t[i] ?? 0;
    out[used++] = c.v[i] ?? 0;
  };
  const width = (to - from) / columns;
  let first = a;
  for (let column = -1; column <= columns && first < b; column++) {
    // the reading before the left edge, the columns, the reading after the right edge
    const end = column === columns ? b : Math.min(b, placeOf(c.t, from + (column + 1) * width));
    if (end <= first) continue;
    const [low, high] = extremes(c, first, end);
    put(first);
    put(Math.min(low, high));
    put(Math.max(low, high));
    put(end - 1);
    first = end;
  }
  return out.subarray(0, used);
}
