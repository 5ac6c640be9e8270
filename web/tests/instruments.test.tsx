import { cleanup, fireEvent, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it } from "vitest";
import { AddInstrument } from "../src/features/instruments";
import { ready } from "./demo";
import { screen, server } from "./screen";

afterEach(() => {
  cleanup();
  localStorage.clear();
});

/** What is stored of an instrument of a kind whose form is filled so. */
async function added(kind: string, fields: Record<string, string>, units: Record<string, string> = {}) {
  for (const [key, value] of Object.entries(units)) localStorage.setItem(key, value);
  const sent = server(ready(), {});
  const form = await screen(<AddInstrument onClose={() => {}} />, ready());
  fireEvent.change(form.getByLabelText("What it measures"), { target: { value: kind } });
  const all = { Tag: "X-1", Certificate: "C-1", "Calibrated on": "2026-01-05", "Valid until": "2027-01-04", ...fields };
  for (const [label, value] of Object.entries(all)) fireEvent.change(await form.findByLabelText(label), { target: { value } });
  fireEvent.click(form.getByRole("button", { name: "Add it" }));
  return { sent, form };
}

describe("adding an instrument", () => {
  it("takes a gauge's figures in the unit of its dial, or in the unit that was typed", async () => {
    const { sent } = await added("gauge", { "Full scale, bar": "40", "Readable division, bar": "1 psi", "Error, % of full scale": "0,5" });
    await waitFor(() => expect(sent.length).toBe(1));
    const body = sent[0]?.body as { full_scale_pa: number; division_pa: number; error_of_scale: number };
    expect([body.full_scale_pa, body.error_of_scale]).toEqual([40e5, 0.005]);
    expect(body.division_pa).toBeCloseTo(6894.757293, 5);
  });

  it("takes those of a thermometer and a stroke in the person's units", async () => {
    const us = { "unit-temperature": "fahrenheit", "unit-volume": "us_gallon" };
    const warm = await added("thermometer", { "Readable division, °F": "0.18", "Error, °F": "0.2 K" }, us);
    await waitFor(() => expect(warm.sent.length).toBe(1));
    const body = warm.sent[0]?.body as { division_k: number; error_k: number };
    expect(body.division_k).toBeCloseTo(0.1, 12);
    expect(body.error_k).toBeCloseTo(0.2, 12);
    cleanup();
    const pump = await added("stroke_counter", { "One stroke, US fl oz": "25 mL", "Uncertainty of a stroke, %": "2" }, us);
    await waitFor(() => expect(pump.sent.length).toBe(1));
    expect(((pump.sent[0]?.body ?? {}) as { stroke_m3: number }).stroke_m3).toBeCloseTo(25e-6, 12);
  });

  it("refuses what is no figure above zero, each at its field", async () => {
    const { sent, form } = await added("gauge", { "Full scale, bar": "forty", "Readable division, bar": "0", "Error, % of full scale": "" });
    await waitFor(() => expect(form.getByText("The full scale is a figure above zero.")).toBeTruthy());
    expect(form.getByText("The division is a figure above zero.")).toBeTruthy();
    expect(form.getByText("The error is a figure above zero.")).toBeTruthy();
    expect(sent).toEqual([]);
  });
});
