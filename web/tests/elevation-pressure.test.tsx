import { cleanup, fireEvent } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { ElevationPressure } from "../src/pictures/elevation-pressure";
import { ready } from "./demo";
import { screen } from "./screen";

afterEach(cleanup);

const G = 9.80665;

async function picture(gaugePa: number, onGauge = (_: number) => {}) {
  const pack = ready();
  if (!pack.derived) throw new Error("the demo's pack is derived");
  const shown = await screen(<ElevationPressure pack={pack} derived={pack.derived} gaugePa={gaugePa} onGauge={onGauge} />, pack);
  return { pack, derived: pack.derived, ...shown };
}

describe("elevation-pressure picture", () => {
  it("calls a part missed exactly when the column at its height is outside what it needs and bears", async () => {
    for (const bar of [20, 25.5, 25.69, 25.71, 27, 29.97, 29.99, 35, 90]) {
      const { pack, derived, container } = await picture(bar * 1e5);
      for (const part of derived.parts) {
        // p(z) = p_g + ρ·g·(z_g − z), worked here
        const there = bar * 1e5 + derived.density_kg_m3 * G * (pack.gauge.elevation_m - part.elevation_m);
        const missed = there < part.required_pa - 1 || there > part.limit_pa + 1;
        const drawn = container.querySelector(`[data-part="${part.tag}"]`)?.getAttribute("data-missed");
        expect(drawn, `${part.tag} at ${bar} bar`).toBe(String(missed));
      }
      cleanup();
    }
  });

  it("says in words what is missed", async () => {
    const low = await picture(20e5);
    expect(low.getByRole("slider").getAttribute("aria-valuetext")).toContain("missed: Top run");
    cleanup();
    const good = await picture(26e5);
    expect(good.getByRole("slider").getAttribute("aria-valuetext")).toContain("every part is between its marks");
  });

  it("moves by one division of the gauge with an arrow, by ten with a page key, never below zero", async () => {
    const moved = vi.fn();
    const { pack, getByRole } = await picture(26e5, moved);
    const slider = getByRole("slider");
    fireEvent.keyDown(slider, { key: "ArrowRight" });
    fireEvent.keyDown(slider, { key: "ArrowLeft" });
    fireEvent.keyDown(slider, { key: "PageUp" });
    fireEvent.keyDown(slider, { key: "a" });
    const step = pack.gauge.division_pa;
    expect(moved.mock.calls.map((c) => Math.round(c[0] - 26e5))).toEqual([step, -step, 10 * step]);
    cleanup();
    const floor = vi.fn();
    fireEvent.keyDown((await picture(0, floor)).getByRole("slider"), { key: "PageDown" });
    expect(floor).toHaveBeenCalledWith(0);
  });

  it("draws the column with the slope of the water", async () => {
    const { derived, container } = await picture(26e5);
    const points = container
      .querySelector("polyline")
      ?.getAttribute("points")
      ?.split(" ")
      .map((p) => p.split(",").map(Number));
    const ticks = (axis: "x" | "y") =>
      [...container.querySelectorAll("svg > g > text")]
        .filter((t) => t.textContent?.endsWith("\u00a0m") === (axis === "y"))
        .map((t) => ({ at: Number(t.getAttribute(axis)), value: Number.parseFloat(t.textContent ?? "") }))
        .filter((t) => Number.isFinite(t.value));
    const scale = (axis: "x" | "y") => {
      const all = ticks(axis);
      const [first, last] = [all[0], all[axis === "x" ? 3 : all.length - 1]];
      if (!first || !last) throw new Error("no ticks");
      return (last.value - first.value) / (last.at - first.at);
    };
    const [a, b] = [points?.[0], points?.[1]];
    if (!a || !b) throw new Error("no column");
    const bar = ((b[0] ?? 0) - (a[0] ?? 0)) * scale("x");
    const metres = ((b[1] ?? 0) - (a[1] ?? 0)) * scale("y");
    expect((bar * 1e5) / metres / -derived.density_kg_m3 / G).toBeCloseTo(1, 2);
  });
});
