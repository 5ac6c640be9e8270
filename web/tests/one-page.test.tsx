import { cleanup, fireEvent, waitFor, within } from "@testing-library/react";
import { afterEach, describe, expect, it } from "vitest";
import type { Pack } from "../src/api/client";
import { countOf, linesOf } from "../src/features/one-page/openings";
import { FilledSheet } from "../src/features/one-page/sheet";
import { objectionsTo, rowsOf, type SheetRow } from "../src/features/one-page/sheet-rows";
import { standing } from "../src/features/one-page/stage";
import { Figures } from "../src/units";
import { running } from "./demo";
import { screen, server } from "./screen";

afterEach(() => {
  cleanup();
  localStorage.clear();
});

describe("openings", () => {
  it("are a line for all that are alike, and a row of a pasted table is a line", () => {
    expect(linesOf("14 plugs, 1/4 in BSP\n\n 1 blank \n1 blank")).toEqual(["14 plugs, 1/4 in BSP", "1 blank"]);
    expect(linesOf("no.\tsize\r\n7\t1/2 in")).toEqual(["no., size", "7, 1/2 in"]);
  });
  it("are counted by the number that begins the line, and a size is no number", () => {
    const cases: [string, number][] = [
      ["14 plugs, 1/4 in BSP", 14],
      ["1/4 in BSP plug", 1],
      ["2 in blank flange", 1],
      ["dome cover", 1],
      ["0 plugs", 1],
    ];
    for (const [line, n] of cases) expect(countOf(line), line).toBe(n);
  });
});

describe("where one person is", () => {
  const pack = (kinds: string[], more: object = {}): Pack => {
    const was = running();
    const attempt = was.attempts.at(-1);
    if (!attempt) throw new Error("the demo's run has an attempt");
    const events = kinds.map((kind) => ({ ...attempt.events[0], kind, at: "2026-06-01T08:00:00Z" }));
    return { ...was, attempts: [{ ...attempt, events, restore: [], frozen: false, signatures: [], withdrawn: null, ...more }] } as unknown as Pack;
  };
  it("follows what is booked", () => {
    const at = (kinds: string[], more: object = {}) => standing(pack(kinds, more), []).stage;
    expect(standing({ ...running(), attempts: [] }, []).stage).toBe("ready");
    expect(at([])).toBe("fill");
    expect(at(["filled"])).toBe("raise");
    expect(at(["filled", "step_reached"])).toBe("raise");
    expect(at(["filled", "step_reached", "pump_off"])).toBe("hold");
    expect(at(["filled", "step_reached", "pump_off", "hold_ended"])).toBe("release");
    const through = ["filled", "step_reached", "pump_off", "hold_ended", "released"];
    expect(at(through, { restore: [{ sentence: "Drain.", done: false, event: "drained" }] })).toBe("restore");
    expect(at(through)).toBe("sign");
    expect(at(through, { frozen: true, signatures: [{ act: "performed" }], next_act: "accepted" })).toBe("sign");
    expect(at(through, { frozen: true, signatures: [{ act: "performed" }], next_act: null })).toBe("done");
    expect(at(["filled"], { withdrawn: "a rule changed" })).toBe("ready");
  });
  it("and what is kept on this device, unless it was refused", () => {
    const p = pack(["filled"]);
    const act = {
      id: "e",
      attempt: p.attempts[0]?.id ?? "",
      at: "2026-06-01T08:10:00Z",
      words: "",
      does: { is: "event" as const, body: { kind: "pump_off" as const, at: "2026-06-01T08:10:00Z" } },
    };
    expect(standing(p, [act]).stage).toBe("hold");
    expect(standing(p, [{ ...act, refused: "no" }]).stage).toBe("raise");
    expect(standing(p, [{ ...act, attempt: "another" }]).stage).toBe("raise");
  });
});

describe("a filled sheet", () => {
  const read = (t: string) => (/^\d\d:\d\d$/.test(t) ? { at: `2026-06-01T${t}:00Z`, why: "" } : { at: null, why: "Write the time as 09:12." });
  const rows: SheetRow[] = [
    { key: "a", words: "a", reads: true },
    { key: "b", words: "b", reads: true },
    { key: "zero", words: "zero", reads: true, kind: "released" },
  ];
  it("says what cannot be at each line, all at once", () => {
    const wrong = objectionsTo(rows, { a: { time: "", shows: "5" }, b: { time: "nine", shows: "" }, zero: { time: "09:00", shows: "" } }, read);
    expect([...wrong.keys()]).toEqual(["a", "b", "zero"]);
    expect(objectionsTo(rows, { a: { time: "09:10", shows: "5" }, b: { time: "09:05", shows: "5" } }, read).get("b")).toContain("before the line above");
    expect(objectionsTo(rows, { b: { time: "09:05", shows: "5" } }, read).size).toBe(0);
  });
  it("has a line for every step, and books each with its time and what the gauge showed, in order", async () => {
    const p = { ...running(), form: "quick" as const, may: { ...running().may, book: true }, looks: [], attempts: [] };
    const names = rowsOf(p, new Figures({ pressure: "bar", temperature: "celsius", length: "metre", volume: "litre" }, undefined)).map((r) => r.key);
    expect(names.filter((n) => n.startsWith("step"))).toHaveLength(p.schedule.length);
    const sent = server(p, {}, {}, {}, {}, {});
    const shown = await screen(<FilledSheet />, p);
    fireEvent.click(shown.getByRole("button", { name: /filled sheet/ }));
    const grid = within(await shown.findByRole("dialog"));
    const type = (label: RegExp, text: string) => fireEvent.change(grid.getByLabelText(label), { target: { value: text } });
    fireEvent.click(grid.getByRole("button", { name: "Book the whole sheet" }));
    await waitFor(() => expect(grid.getByText("Write when it was begun.")).toBeTruthy());
    type(/^Time: Begun/, "2026-06-01 08:00");
    type(/^Time: Full/, "2026-06-01 08:05");
    type(/^Time: Pump stopped at 5\.39/, "2026-06-01 08:10");
    type(/^PG-101: Pump stopped at 5\.39/, "5.4");
    fireEvent.click(grid.getByRole("button", { name: "Book the whole sheet" }));
    await waitFor(() => expect(sent.length).toBe(4));
    expect(sent.map((s) => s.path.split("/").at(-2))).toEqual(["attempts", "events", sent[2]?.path.split("/").at(-2), "events"]);
    expect(sent[2]?.path.endsWith("/readings")).toBe(true);
  });
});
