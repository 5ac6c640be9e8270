/** Steps that a clock shows, s. */
const STEPS = [1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 900, 1800, 3600, 7200, 10_800, 21_600, 43_200, 86_400];

/** Ticks at whole steps of the clock: about `count` between two times, s, whose zero stands at `origin_s` of the day. */
export function timeTicks(from: number, to: number, count: number, origin_s = 0): number[] {
  const step = STEPS.find((s) => (to - from) / s <= count) ?? 86_400;
  const ticks: number[] = [];
  for (let t = Math.ceil((from + origin_s) / step) * step; t <= to + origin_s; t += step) ticks.push(t - origin_s);
  return ticks;
}
