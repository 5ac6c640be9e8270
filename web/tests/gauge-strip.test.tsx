import { cleanup } from "@testing-library/react";
import { afterEach, describe, expect, it } from "vitest";
import type { Pack } from "../src/api/client";
import { GaugeStrip } from "../src/pictures/gauge-strip";
import { UNITS } from "../src/units";
import { conflict, ready, running } from "./demo";
import { screen } from "./screen";

afterEach(() => {
  cleanup();
  localStorage.clear();
});

/** Heights of the labels from the top down. */
function labels(container: HTMLElement) {
  return [...container.querySelectorAll("[data-mark]:not([data-mark=needle])")].map((g) => ({
    kind: g.getAttribute("data-mark"),
    y: Number(g.querySelector("text")?.getAttribute("y")),
    lines: g.querySelectorAll("text").length,
    at: Number(g.querySelector("line")?.getAttribute("y1")),
  }));
}

const marks = (pack: Pack) => {
  const d = pack.derived;
  if (!d?.day) throw new Error("the demo's pack has a plan for the day");
  return { d, day: d.day };
};

describe("gauge strip", () => {
  it("shows every pressure of the day, the highest on top", async () => {
    const { container } = await screen(<GaugeStrip pack={ready()} />, ready());
    expect(labels(container).map((l) => l.kind)).toEqual(["upper", "stop", "relief", "alarm", "planned", "lower"]);
    const heights = labels(container).map((l) => l.at);
    expect(heights).toEqual([...heights].sort((a, b) => a - b));
  });

  it("marks the pressure of the look, and of a hold that is lowered, where they are not the planned one", async () => {
    const gas = ready();
    const { day } = marks(gas);
    day.look_pa = day.planned_pa - 1e5;
    const looked = await screen(<GaugeStrip pack={gas} />, gas);
    expect(looked.getByRole("img").getAttribute("aria-label")).toContain("for the look");
    cleanup();
    const main = ready();
    marks(main).d.criteria = [{ kind: "expansion", origin: { rule: "X", source: "" }, least_s: 10_800, lowered_pa: 68_948 }];
    const lowered = await screen(<GaugeStrip pack={main} />, main);
    expect(labels(lowered.container).map((l) => l.kind)).toContain("lowered");
    expect(lowered.getByRole("img").getAttribute("aria-label")).toContain("for the hold");
  });

  it("says the same figures in words, bounds rounded to the safe side", async () => {
    const { getByRole } = await screen(<GaugeStrip pack={ready()} />, ready());
    const words = getByRole("img").getAttribute("aria-label") ?? "";
    const { d } = marks(ready());
    const upper = Number(/upper ([\d.]+)/.exec(words)?.[1]);
    const lower = Number(/lower ([\d.]+)/.exec(words)?.[1]);
    expect(upper * 1e5).toBeLessThanOrEqual(d.upper_pa + 1e-6);
    expect(lower * 1e5).toBeGreaterThanOrEqual(d.lower_pa - 1e-6);
  });

  it("keeps labels apart however close the pressures lie, in every unit", async () => {
    for (const unit of UNITS) {
      for (const spread of [1, 0.3, 0.02, 0.001]) {
        localStorage.setItem("unit", unit);
        const pack = ready();
        const { d, day } = marks(pack);
        const squeeze = (pa: number) => d.lower_pa + (pa - d.lower_pa) * spread;
        d.upper_pa = squeeze(d.upper_pa);
        day.stop_line_pa = squeeze(day.stop_line_pa);
        day.relief_set_pa = squeeze(day.relief_set_pa ?? 0);
        day.alarm_pa = squeeze(day.alarm_pa);
        day.planned_pa = squeeze(day.planned_pa);
        const { container } = await screen(<GaugeStrip pack={pack} />, pack);
        const all = labels(container);
        for (let i = 1; i < all.length; i++) {
          const [above, here] = [all[i - 1], all[i]];
          if (!above || !here) throw new Error("no label");
          expect(here.y - above.y, `${unit} ${spread} ${above.kind}/${here.kind}`).toBeGreaterThan(above.lines > 1 ? 26 : 13);
        }
        cleanup();
      }
    }
  });

  it("has a needle only while a test is under pressure, and starts at zero while that is far below", async () => {
    const still = await screen(<GaugeStrip pack={ready()} />, ready());
    expect(still.container.querySelector("[data-mark=needle]")).toBeNull();
    cleanup();
    const pack = running();
    const attempt = pack.attempts.at(-1);
    if (!attempt) throw new Error("the demo's pack is running");
    attempt.last_pressure_pa = 3e5;
    const low = await screen(<GaugeStrip pack={pack} />, pack);
    expect(low.container.querySelector("[data-mark=needle]")).not.toBeNull();
    const ticks = [...low.container.querySelectorAll("svg > g:not([data-mark]) text")].map((t) => Number(t.textContent));
    expect(Math.min(...ticks)).toBe(0);
  });

  it("draws no window where no reading suits every part", async () => {
    const { container } = await screen(<GaugeStrip pack={conflict()} />, conflict());
    expect(container.querySelector("rect")).toBeNull();
  });

  it("says so when nothing is derived or no gauge is chosen", async () => {
    const pack = { ...ready(), derived: null, gauge: { ...ready().gauge, full_scale_pa: null } };
    const { getByText } = await screen(<GaugeStrip pack={pack} />, pack);
    expect(getByText(/No marks yet/)).toBeTruthy();
    expect(getByText(/no gauge chosen yet/)).toBeTruthy();
  });
});
