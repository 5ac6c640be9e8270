import { cleanup, fireEvent } from "@testing-library/react";
import { afterEach, describe, expect, it } from "vitest";
import { HoldChart } from "../src/pictures/hold-chart";
import { ScheduleCurve } from "../src/pictures/schedule-curve";
import { hold, running } from "./demo";
import { screen } from "./screen";
import { Figures } from "../src/units";

afterEach(cleanup);

const BAR = new Figures({ pressure: "bar", temperature: "celsius", length: "metre", volume: "litre" }, { unit: "bar", division_pa: 1e3 });
const judgement = () => running().attempts.at(-1)?.judgement ?? null;

async function chart(change: (view: ReturnType<typeof hold>) => void = () => {}, whole = false) {
  const view = hold();
  change(view);
  return { view, ...(await screen(<HoldChart view={view} judgement={judgement()} show={BAR} divisionPa={1e3} whole={whole} />, running())) };
}

describe("hold chart", () => {
  it("zooms to the hold: its fall fills the chart, not the whole scale", async () => {
    const { container, view } = await chart();
    const ticks = [...container.querySelectorAll("svg text")].map((t) => Number(t.textContent)).filter((v) => v > 1 && v < 100);
    const values = view.pressure.map((p) => p.value / 1e5);
    const span = Math.max(...values) - Math.min(...values);
    expect(Math.max(...ticks.filter((v) => v > 18)) - Math.min(...ticks.filter((v) => v > 18))).toBeLessThan(6 * span + 0.2);
  });

  it("names every event in the hold, a leak among them", async () => {
    const { container, view } = await chart((v) => {
      const pump = v.events.find((e) => e.event.kind === "pump_off");
      if (!pump) throw new Error("the demo's run has pumped");
      v.events.push({ t_s: pump.t_s + 600, event: { ...pump.event, id: "x", kind: "leak_seen", place: "weld", note: "weld 12" } });
    });
    expect(view.events.length).toBeGreaterThan(4);
    const words = container.textContent ?? "";
    for (const word of ["pump off", "leak seen"]) expect(words).toContain(word);
  });

  it("keeps the flags of a whole run above the lower bound and everything that was read", async () => {
    const { container } = await chart(() => {}, true);
    const lower = Number(container.querySelector("line.stroke-ink[stroke-width='2']")?.getAttribute("y1"));
    const flags = [...container.querySelectorAll("svg text")].filter((t) => t.textContent === "pump off").map((t) => Number(t.getAttribute("y")));
    expect(flags).toHaveLength(1);
    expect(lower).toBeGreaterThan(Math.max(...flags) + 4);
  });

  it("tells the stretches of the run beneath the hold, each with its times", async () => {
    const { container, view } = await chart((v) => {
      const hold = v.hold;
      if (!hold) throw new Error("the demo's run is held");
      v.stretches = [
        { kind: "ramp", start_s: hold.start_s - 600, end_s: hold.start_s - 300 },
        { kind: "stabilise", start_s: hold.start_s - 300, end_s: hold.start_s },
        { kind: "hold", start_s: hold.start_s, end_s: hold.end_s },
      ];
    }, true);
    expect([...container.querySelectorAll("[data-stretch]")].map((s) => s.getAttribute("data-stretch"))).toEqual(["ramp", "stabilise", "hold"]);
    const at = (s: number) => new Date(Date.parse(view.released_at) + s * 1000).toISOString().slice(11, 16);
    expect(container.querySelector("[data-stretch=hold] title")?.textContent).toBe(`hold, ${at(view.hold?.start_s ?? 0)} to ${at(view.hold?.end_s ?? 0)}`);
  });

  it("draws further instruments, a gauge that hangs lower beside the first and saying so, until one is taken off", async () => {
    const { getByLabelText, container } = await chart((v) => {
      const level = (by: number) => v.pressure.map((p) => ({ ...p, value: p.value + by }));
      v.also = [
        { tag: "PT-2", gauge: true, above_first: 0.41e5, points: level(0.41e5) },
        { tag: "TA-2", gauge: false, above_first: 0, points: [{ t_s: v.hold?.start_s ?? 0, value: 31 }] },
      ];
    });
    const gauge = getByLabelText(/^PT-2, drawn 0.41 bar lower$/) as HTMLInputElement;
    // the axis of temperatures reaches what the further thermometer read
    const degrees = () => [...container.querySelectorAll("svg text")].map((t) => Number(t.textContent)).some((v) => v >= 30 && v < 40);
    expect(gauge.checked && degrees()).toBe(true);
    fireEvent.click(getByLabelText("TA-2"));
    expect(degrees()).toBe(false);
    expect(container.innerHTML).not.toContain("NaN");
  });

  it("tells a screen reader where the figures are", async () => {
    const { getByRole } = await chart();
    expect(getByRole("img").getAttribute("aria-label")).toContain("table of readings");
  });

  it("says in a sentence when nothing was read", async () => {
    const { getByText } = await chart((v) => {
      v.pressure = [];
      v.temperature = [];
    });
    expect(getByText(/No pressure was read yet/)).toBeTruthy();
  });

  it("draws a record without temperatures, without an axis for them", async () => {
    const { container } = await chart((v) => {
      v.temperature = [];
    });
    expect(container.querySelector("svg")).not.toBeNull();
    expect(container.innerHTML).not.toContain("NaN");
  });

  it("never draws what is not a number, whatever little was read", async () => {
    for (const n of [1, 2, 3]) {
      for (const whole of [true, false]) {
        const { container } = await chart((v) => {
          v.pressure = v.pressure.slice(0, n);
          v.temperature = v.temperature.slice(0, 1);
        }, whole);
        expect(container.innerHTML, `${n} readings`).not.toMatch(/NaN|Infinity|undefined/);
        cleanup();
      }
    }
  });
});

describe("schedule curve", () => {
  it("rises from zero to the planned pressure through every step", async () => {
    const pack = running();
    const { container } = await screen(<ScheduleCurve steps={pack.schedule} reached={2} show={BAR} readings={[]} />, pack);
    const figures = [...container.querySelectorAll("svg text")].map((t) => t.textContent);
    for (const step of pack.schedule) expect(figures).toContain((step.target_pa / 1e5).toFixed(2));
    expect(container.innerHTML).not.toMatch(/NaN|Infinity/);
  });
});
