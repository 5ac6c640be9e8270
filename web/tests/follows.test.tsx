import { cleanup, fireEvent, waitFor, within } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { Pack, Plan, Schema } from "../src/api/client";
import { Derive } from "../src/features/derive";
import { WhatIf } from "../src/features/derive/what-if";
import { Follows } from "../src/follows";
import { GasPictures } from "../src/pictures/energy";
import { SiteFields } from "../src/planning";
import { Figures } from "../src/units";
import { ready } from "./demo";
import { screen, server } from "./screen";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
  localStorage.clear();
});

const METRIC = new Figures({ pressure: "bar", temperature: "celsius", length: "metre", volume: "litre" }, { unit: "bar", division_pa: 1e4 });
const line = (by: Partial<Schema["Line"]>): Schema["Line"] => ({
  key: "relief",
  step: "derive",
  question: "Where?",
  says: "At {0}, not {1}.",
  figures: [],
  stops: false,
  ...by,
});
const pressure = (value: number, toward: Schema["Toward"]) => ({ amount: { value, dimension: "gauge_pressure_pa" as const }, toward });

describe("lines of what follows", () => {
  it("put each figure into its place, in the reader's unit and rounded the way it counts", async () => {
    const pack = ready();
    if (pack.derived) pack.derived.lines = [line({ figures: [pressure(27.259e5, "down"), pressure(25.691e5, "up")] })];
    server(pack);
    localStorage.setItem("unit", "bar");
    const view = await screen(<Follows steps={["derive"]} />, pack);
    const text = view.container.querySelector("[data-line=relief]")?.textContent?.replaceAll("\u00a0", " ");
    expect(text).toContain("At 27.25 bar, not 25.70 bar.");
  });

  it("say what stops apart from what is to be minded, and stand only in the step that needs them", async () => {
    const pack = ready();
    if (pack.derived)
      pack.derived.lines = [
        line({ key: "a", step: "ready", says: "One.", trouble: "It is too large.", stops: true }),
        line({ key: "b", step: "ready", says: "Two.", trouble: "Go slowly." }),
        line({ key: "c", step: "fill", says: "Three." }),
      ];
    server(pack);
    const view = await screen(<Follows steps={["ready"]} />, pack);
    expect(view.getByText(/Stops:/).textContent).toContain("too large");
    expect(view.getByText(/Mind:/).textContent).toContain("slowly");
    expect(view.queryByText("Three.")).toBeNull();
  });

  it("choose the size of unit that suits the figure", () => {
    const say = (value: number, dimension: Schema["Dimension"]) => METRIC.said({ value, dimension }, "nearest").replaceAll("\u00a0", " ");
    expect(say(2.2375, "volume_m3")).toBe("2.24 m³");
    expect(say(3.3e-3, "volume_m3")).toBe("3.3 L");
    expect(say(8e-6, "volume_m3")).toBe("8 mL");
    expect(say(39_600, "time_s")).toBe("11 h");
    expect(say(15.2e6, "energy_j")).toBe("15.2 MJ");
    expect(say(53_400, "force_n")).toBe("53.4 kN");
    expect(say(0.172, "share")).toBe("17.2 %");
  });
});

describe("parts of a plant", () => {
  const plant = (): Pack => {
    const pack = ready();
    const first = pack.derived?.parts[0];
    if (!pack.derived || !first) throw new Error("the kept answer has parts");
    pack.derived.parts = Array.from({ length: 2000 }, (_, i) => ({ ...first, tag: `P-${i}`, elevation_m: i % 40, gauge_upper_pa: first.gauge_upper_pa + i * 100 }));
    pack.derived.lower_part = "P-0";
    pack.derived.upper_part = "P-0";
    return pack;
  };

  it("draws two thousand in a few strokes and only the rows that are seen", async () => {
    const pack = plant();
    server(pack);
    const view = await screen(<Derive />, pack);
    expect(view.container.querySelector("[data-crowd]")?.getAttribute("data-crowd")).toBe("2000");
    expect(view.container.querySelectorAll("svg [data-part]").length).toBeLessThan(20);
    expect(view.container.querySelectorAll("tr[data-row]").length).toBeLessThan(200);
    expect(view.getByText(/Parts, 2000/)).toBeTruthy();
  });

  it("sorts by name, height and room, and tells how far each part is from both bounds at the reading shown", async () => {
    const pack = ready();
    server(pack);
    const view = await screen(<Derive />, pack);
    const rows = () => [...view.container.querySelectorAll("tr[data-row]")].map((r) => r.getAttribute("data-row"));
    fireEvent.click(view.getByRole("button", { name: "height" }));
    const byHeight = [...(pack.derived?.parts ?? [])].sort((a, b) => b.elevation_m - a.elevation_m).map((p) => p.tag);
    expect(rows()).toEqual(byHeight);
    fireEvent.change(view.getByLabelText(/reads/), { target: { value: "29" } });
    const top = pack.derived?.parts.find((p) => p.tag === pack.derived?.lower_part);
    const spare = within(view.container.querySelector(`tr[data-row="${top?.tag}"]`) as HTMLElement).getAllByRole("cell")[5]?.textContent ?? "";
    expect(Number(spare.split("/")[0])).toBeCloseTo(29 - (top?.gauge_lower_pa ?? 0) / 1e5, 1);
  });
});

describe("what is on site", () => {
  it("is saved in SI and asked for only what the test can use", async () => {
    const pack = ready();
    const sent = server(pack, { body: { ...pack, version: pack.version + 1 } });
    const form = await screen(<SiteFields />, pack);
    expect(form.queryByLabelText(/Closed room/)).toBeNull();
    fireEvent.change(form.getByLabelText("Source gives, m³/h"), { target: { value: "1,5" } });
    fireEvent.change(form.getByLabelText("Hand pump, each stroke, mL"), { target: { value: "8" } });
    fireEvent.click(form.getByRole("button", { name: "Save the site" }));
    await waitFor(() => expect(sent.length).toBe(1));
    const { plan } = (sent[0]?.body ?? {}) as { plan: Plan };
    expect(plan.site?.source_flow_m3_per_s).toBeCloseTo(1.5 / 3600, 12);
    expect(plan.site?.stroke_m3).toBeCloseTo(8e-6, 12);
  });
});

describe("what if", () => {
  it("asks the server with the changed plan, says what would follow, and stores nothing", async () => {
    const pack = ready();
    if (!pack.derived) throw new Error("the kept answer is derived");
    const would = { ...pack.derived, lower_readable_pa: 30e5, upper_shown_pa: 31e5, lower_part: "the top", upper_part: "the flange" };
    const sent = server(pack, { body: { derived: would, refusal: null } });
    localStorage.setItem("unit", "bar");
    const view = await screen(<WhatIf derived={pack.derived} />, pack);
    fireEvent.change(view.getByLabelText("Design pressure, bar"), { target: { value: "20" } });
    await waitFor(() => expect(view.container.querySelector("[data-what-if]")?.textContent).toContain("the flange bear the least"));
    expect(sent.map((s) => `${s.method} ${s.path.split("/").at(-1)}`)).toEqual(["POST what-if"]);
    expect(((sent[0]?.body ?? {}) as { plan: Plan }).plan.basis.design_pressure_pa).toBeCloseTo(20e5, 3);
    fireEvent.click(view.getByRole("button", { name: "Back to the plan" }));
    await waitFor(() => expect(view.container.querySelector("[data-what-if]")?.textContent).toBe(""));
  });
});

describe("energy of a gas test", () => {
  it("is drawn on one scale of area beside that of water, with the ring to keep clear", async () => {
    const pack = ready();
    server(pack);
    const gas = {
      first_stop_pa: 1.7e5,
      energy_ideal_j: 4e6,
      energy_real_j: 3.9e6,
      energy_water_j: 1e4,
      tnt_kg: 0.94,
      distance_fixed_m: 30,
      distance_blast_m: 24,
      distance_m: 30,
      objection: null,
    };
    const view = await screen(<GasPictures gas={gas} />, pack);
    const [big, small] = [...view.container.querySelectorAll("figure:first-of-type rect")].slice(1).map((r) => Number(r.getAttribute("width")));
    expect(((big ?? 0) / (small ?? 1)) ** 2).toBeCloseTo(400, 0);
    expect(view.getByRole("img", { name: "Nobody within 30\u00a0m of the system" })).toBeTruthy();
  });
});
