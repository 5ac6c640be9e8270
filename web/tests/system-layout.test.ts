import { describe, expect, it } from "vitest";
import { distances, layOut, type SystemLook } from "../src/pictures/system-layout";

const SHEET = { width: 800, height: 400, left: 60, right: 40, top: 30, bottom: 40 };

function look(heights: number[], parts: [from: number, to: number, length: number][], steps: [number, number][] = []): SystemLook {
  return {
    points: heights.map((height_m, i) => ({ place: `p${i}`, height_m, pressed: true, unmeasured: false })),
    parts: parts.map(([from, to, length_m], i) => ({
      tag: `L${i}`,
      what: "pipe",
      drawn: "pipe",
      from,
      to,
      length_m,
      volume_m3: 1,
      pressed: true,
      beyond: false,
      position: "",
    })),
    steps,
    filling: [],
    draining: [],
    volume_m3: parts.length,
    filled_m3: 0,
    vents: [],
    pockets: [],
    left: [],
    stretches: [],
    drain_order: "",
    collapses: [],
    findings: [],
    lines: [],
    sections: [],
  };
}

describe("the profile of a system", () => {
  it("keeps heights true: equal steps of height are equal steps of the sheet", () => {
    const l = layOut(
      look(
        [0, 5, 10, 2.5],
        [
          [0, 1, 10],
          [1, 2, 30],
          [2, 3, 8],
        ],
      ),
      SHEET,
    );
    expect(l.y(0) - l.y(5)).toBeCloseTo(l.y(5) - l.y(10), 9);
    expect(l.y(0)).toBeCloseTo(SHEET.height - SHEET.bottom, 9);
    expect(l.y(10)).toBeCloseTo(SHEET.top, 9);
  });

  it("takes the way along the ground: what rises straight up goes nowhere, a level run its whole length", () => {
    const { at } = distances(
      look(
        [0, 8, 8],
        [
          [0, 1, 8],
          [1, 2, 100],
        ],
      ),
    );
    const [a = 0, b = 0, c = 0] = at;
    expect(c - b).toBeCloseTo(100, 6);
    // drawn long enough to be seen, not as long as it is
    expect(b - a).toBeGreaterThan(0);
    expect(b - a).toBeLessThan(c - b);
  });

  it("fans out branches of one height and one distance, and keeps all on the sheet", () => {
    const branches = 7;
    const l = layOut(
      look(
        [0, ...Array(branches).fill(4)],
        Array.from({ length: branches }, (_, i) => [0, i + 1, 10] as [number, number, number]),
      ),
      SHEET,
    );
    const ends = l.x.slice(1).sort((a, b) => a - b);
    for (const [i, x] of ends.entries()) {
      expect(x).toBeGreaterThanOrEqual(SHEET.left);
      expect(x).toBeLessThanOrEqual(SHEET.width - SHEET.right);
      if (i > 0) expect(x - (ends[i - 1] ?? 0)).toBeGreaterThan(4);
    }
  });

  it("is the same each time, and has a place for what hangs on nothing and for a ring", () => {
    const ring = look(
      [0, 3, 3, 1],
      [
        [0, 1, 5],
        [1, 2, 5],
        [2, 0, 5],
      ],
      [[0, 2]],
    );
    const [a, b] = [layOut(ring, SHEET), layOut(ring, SHEET)];
    expect(a.x).toEqual(b.x);
    expect(a.x.every(Number.isFinite)).toBe(true);
  });
});
