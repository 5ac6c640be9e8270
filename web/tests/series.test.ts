import { describe, expect, it } from "vitest";
import { Trail } from "../src/live/trail";
import { decimate } from "../src/pictures/decimate";
import { columns } from "../src/pictures/trace";
import { decode, extended, extent, nearest, parted } from "../src/pictures/series";

/** A hold of so many readings a second apart with a slow fall; `peaks` are put on top. */
function hold(n: number, peaks: Record<number, number> = {}) {
  const t = Float64Array.from({ length: n }, (_, i) => i);
  const v = Float64Array.from({ length: n }, (_, i) => 26e5 - i * 0.1 + 300 * Math.sin(i * 0.7));
  for (const [i, value] of Object.entries(peaks)) v[Number(i)] = value;
  return { t, v };
}

it("draws no line from the last reading of a hold to the next one at zero", () => {
  const channel = { t: Float64Array.of(0, 900, 1800, 2400), v: Float64Array.of(14, 13.9, 13.8, 0) };
  expect(parted(channel, 2000).map((c) => [...c.v])).toEqual([[14, 13.9, 13.8], [0]]);
  // a reading at its very end belongs to it, and a hold that goes on is one line
  expect(parted(channel, 1800).map((c) => c.t.length)).toEqual([3, 1]);
  expect(parted(channel, Number.POSITIVE_INFINITY)).toEqual([channel]);
});

describe("decimation", () => {
  it("keeps every peak at any zoom, and never more than four readings a column", () => {
    const peaks = { 77777: 30e5, 77778: 20e5, 12: 31e5, 99999: 19e5 };
    const channel = hold(100_000, peaks);
    for (const [from, to] of [
      [0, 99_999],
      [50_000, 99_999],
      [77_000, 78_500],
      [-500, 30],
    ] as const) {
      const drawn = decimate(channel, from, to, 800);
      const values = [...drawn].filter((_, i) => i % 2 === 1);
      for (const [i, value] of Object.entries(peaks)) if (Number(i) >= from && Number(i) <= to) expect(values, `${i} between ${from} and ${to}`).toContain(value);
      expect(drawn.length / 2).toBeLessThanOrEqual(4 * 802);
    }
  });

  it("runs forward in time and invents no reading", () => {
    const channel = hold(20_000);
    const drawn = decimate(channel, 3_000, 17_000, 300);
    for (let i = 2; i < drawn.length; i += 2) expect(drawn[i]).toBeGreaterThanOrEqual(drawn[i - 2] ?? 0);
    for (let i = 0; i < drawn.length; i += 2) expect(channel.v[drawn[i] ?? -1]).toBe(drawn[i + 1]);
    // the line runs to both edges of the picture
    expect(drawn[0]).toBeLessThanOrEqual(3_000);
    expect(drawn.at(-2)).toBeGreaterThanOrEqual(17_000);
  });

  it("gives few readings as they are", () => {
    const channel = hold(50);
    expect(decimate(channel, 0, 49, 800).length).toBe(100);
    expect(decimate({ t: new Float64Array(), v: new Float64Array() }, 0, 10, 800).length).toBe(0);
  });
});

describe("a line of many points", () => {
  it("covers every reading in its column, joins neighbours, and crosses a gap by a stroke", () => {
    const channel = hold(4_000, { 1234: 30e5 });
    const points = new Float64Array(8_000);
    for (let i = 0; i < 4_000; i++) points.set([i < 2_000 ? i : i + 600, channel.v[i] ?? 0], 2 * i);
    const x = (t: number) => t / 10;
    const y = (v: number) => (31e5 - v) / 1e3;
    const bars = new Map<number, [top: number, bottom: number]>();
    const strokes: [number, number][] = [];
    const pen = {
      beginPath: () => {},
      stroke: () => {},
      moveTo: (px: number, py: number) => strokes.push([px, py]),
      lineTo: (px: number, py: number) => strokes.push([px, py]),
      fillRect: (left: number, top: number, width: number, height: number) => {
        expect(width).toBe(1);
        bars.set(left, [top, top + height]);
      },
    } as unknown as CanvasRenderingContext2D;
    columns(pen, points, x, y, 2);
    for (let i = 0; i < points.length; i += 2) {
      const bar = bars.get(Math.floor(x(points[i] ?? 0)));
      const value = y(points[i + 1] ?? 0);
      expect(bar && bar[0] <= value - 0.99 && bar[1] >= value + 0.99, `reading ${i / 2} is drawn`).toBe(true);
    }
    for (const [left, [top, bottom]] of bars) {
      const next = bars.get(left + 1);
      if (next) expect(next[0] <= bottom && next[1] >= top, `columns ${left} and the next touch`).toBe(true);
    }
    expect(strokes.map((p) => p[0])).toEqual([199.9, 260]);
  });
});

describe("series", () => {
  const bytes = (...channels: [number, number][][]) => {
    const buffer = new ArrayBuffer(channels.reduce((sum, c) => sum + 4 + 16 * c.length, 0));
    const view = new DataView(buffer);
    let at = 0;
    for (const c of channels) {
      view.setUint32(at, c.length, true);
      at += 4;
      for (const [t, v] of c) {
        view.setFloat64(at, t, true);
        view.setFloat64(at + 8, v, true);
        at += 16;
      }
    }
    return buffer;
  };

  it("reads what the server sends, and refuses half of it", () => {
    const sent = bytes(
      [
        [1, 26e5],
        [2, 25.9e5],
      ],
      [[1, 15.2]],
    );
    const { pressure, temperature } = decode(sent);
    expect([...pressure.v, ...temperature.v]).toEqual([26e5, 25.9e5, 15.2]);
    expect(() => decode(sent.slice(0, 30))).toThrow("incomplete");
  });

  it("finds extent and nearest, and adds only what is new", () => {
    const channel = hold(10, { 4: 30e5 });
    expect(extent(channel, 3, 5)?.[1]).toBe(30e5);
    expect(extent(channel, 100, 200)).toBeNull();
    expect(nearest(channel, 4.4)?.value).toBe(30e5);
    const longer = extended(channel, [
      { t_s: 9, value: 1 },
      { t_s: 10, value: 2 },
    ]);
    expect([longer.t.length, longer.v.at(-1)]).toEqual([11, 2]);
    expect(extended(longer, [{ t_s: 10, value: 2 }])).toBe(longer);
  });
});

describe("trail of the needle", () => {
  const line = (seq: number, value: number | null) => ({ seq, t_s: seq, values: [{ channel: 1, answer: value === null ? "none" : "read", value }] }) as never;

  it("keeps what comes twice once, in order, and leaves out what did not answer", () => {
    const trail = new Trail(1);
    for (const [seq, value] of [
      [1, 5],
      [2, null],
      [3, 6],
      [3, 6],
      [2, 9],
      [4, 7],
    ] as const)
      trail.add(line(seq, value));
    expect(trail.points().map((p) => p.value)).toEqual([5, 6, 7]);
  });

  it("keeps an hour and no more", () => {
    const trail = new Trail(1);
    for (let i = 1; i <= 4000; i++) trail.add(line(i, i));
    expect(trail.points().length).toBe(3600);
    expect(trail.points()[0]?.value).toBe(401);
  });
});
