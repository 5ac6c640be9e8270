import { describe, expect, it } from "vitest";
import { timeTicks } from "../src/pictures/time-ticks";

describe("ticks of the clock", () => {
  it("stand at whole steps whatever the zero of the times", () => {
    expect(timeTicks(0, 3600, 7)).toEqual([0, 600, 1200, 1800, 2400, 3000, 3600]);
    expect(timeTicks(0, 3600, 7, 100)).toEqual([500, 1100, 1700, 2300, 2900, 3500]);
  });
  it("are never many", () => {
    for (const span of [10, 100, 1e3, 1e4, 1e5, 5e5]) expect(timeTicks(3, 3 + span, 8).length).toBeLessThanOrEqual(9);
  });
});
