import { cleanup, fireEvent, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { type Act, perform, sendKept } from "../src/api/outbox";
import { KeptActs } from "../src/app/kept";
import { EventButtons, LeakDialog, ReadingForm } from "../src/booking";
import { running } from "./demo";
import { problem, type Sent, screen, server } from "./screen";

afterEach(() => {
  cleanup();
  localStorage.clear();
});

interface Readings {
  readings: { id: string; at: string; channel: string; text: string; unit: string }[];
}
const last = running().attempts.at(-1);
if (!last) throw new Error("the demo's run has an attempt");
const attempt = { ...last, id: "a1", further: [] };
const read = (s: Sent | undefined) => (s?.body as Readings | undefined)?.readings ?? [];

it("types further gauges of the plan in the unit of each one's dial, and none that the recorder reads", async () => {
  const further = [
    { tag: "PG-102", channel: "pressure" as const, unit: "psi" as const, recorded: false },
    { tag: "TI-7", channel: "temperature" as const, unit: "bar" as const, recorded: false },
    { tag: "PT-9", channel: "pressure" as const, unit: "bar" as const, recorded: true },
  ];
  const form = await screen(<ReadingForm attempt={{ ...attempt, further }} gauge="PG-101" unit="bar" />, running());
  const refused = problem(422, "This is 37.6 bar, beyond the end of PG-102.", "readings[1].text");
  const asked = { ...refused, body: { ...refused.body, type: "/problems/doubtful" } };
  const sent = server(running(), asked, {});
  expect(form.queryByLabelText(/PT-9/)).toBeNull();
  fireEvent.change(form.getByLabelText("PG-101 shows, bar"), { target: { value: "26" } });
  fireEvent.change(form.getByLabelText("PG-102 shows, psi"), { target: { value: "545" } });
  fireEvent.change(form.getByLabelText("TI-7, °C"), { target: { value: "14" } });
  fireEvent.submit(form.getByRole("button", { name: /Store/ }));
  const why = await form.findByText(/beyond the end of PG-102/);
  expect(form.getByLabelText("PG-102 shows, psi").getAttribute("aria-describedby")).toContain(why.closest("[id]")?.id);
  expect(read(sent[0])).toMatchObject([
    { of: "", text: "26", unit: "bar" },
    { of: "PG-102", text: "545", unit: "psi" },
    { of: "TI-7", channel: "temperature" },
  ]);
  fireEvent.click(form.getByText("The gauge really shows this: store it"));
  await waitFor(() => expect(form.getByRole("status").textContent).toContain("saved"));
});

describe("typing a reading", () => {
  let form: Awaited<ReturnType<typeof screen>>;
  beforeEach(async () => {
    form = await screen(<ReadingForm attempt={attempt} gauge="PG-101" unit="bar" />, running());
  });
  const type = (label: RegExp | string, text: string) => fireEvent.change(form.getByLabelText(label), { target: { value: text } });
  const store = () => fireEvent.submit(form.getByRole("button", { name: /Store/ }));

  it("sends pressure and temperature as typed, at one instant", async () => {
    const sent = server(running());
    type("PG-101 shows, bar", "376 psi");
    type("Temperature, °C", "15,2");
    type("Time (UTC)", "2026-06-01 09:12");
    store();
    await waitFor(() => expect(form.getByRole("status").textContent).toContain("saved"));
    const [pressure, temperature] = read(sent[0]);
    expect(pressure).toMatchObject({ channel: "pressure", text: "376 psi", unit: "bar", at: "2026-06-01T09:12:00.000Z" });
    expect(temperature).toMatchObject({ channel: "temperature", text: "15,2", at: "2026-06-01T09:12:00.000Z" });
    expect(pressure?.id).not.toBe(temperature?.id);
    expect((form.getByLabelText("PG-101 shows, bar") as HTMLInputElement).value).toBe("");
  });

  it("sends the same again under the same id and time when the server could not be reached", async () => {
    const sent = server(running(), "unreachable", "unreachable", {});
    type("PG-101 shows, bar", "26.1");
    for (let i = 0; i < 2; i++) {
      store();
      await waitFor(() => expect(sent.length).toBe(i + 1));
      await waitFor(() => expect(form.getByRole("status").textContent).toContain("not sent yet"));
      expect((form.getByLabelText("PG-101 shows, bar") as HTMLInputElement).value).toBe("26.1");
    }
    store();
    await waitFor(() => expect(form.getByRole("status").textContent).toContain("saved"));
    expect(read(sent[1])).toEqual(read(sent[0]));
    expect(read(sent[2])).toEqual(read(sent[0]));
  });

  it("gives what was changed meanwhile a new id, since a reading is never changed", async () => {
    const sent = server(running(), "unreachable", {});
    type("PG-101 shows, bar", "26.1");
    store();
    await waitFor(() => expect(form.getByRole("status").textContent).toContain("not sent yet"));
    type("PG-101 shows, bar", "26.2");
    store();
    await waitFor(() => expect(form.getByRole("status").textContent).toContain("saved"));
    expect(read(sent[1])[0]?.id).not.toBe(read(sent[0])[0]?.id);
  });

  it("puts the server's sentence under the field that it names, and keeps what was typed", async () => {
    server(running(), problem(422, "The temperature must be between −60 and 150 °C, not 950.", "readings[1].text"));
    type("PG-101 shows, bar", "26.1");
    type("Temperature, °C", "950");
    store();
    await waitFor(() => expect(form.getByRole("alert").textContent).toContain("not 950"));
    const field = form.getByLabelText("Temperature, °C") as HTMLInputElement;
    expect(field.getAttribute("aria-invalid")).toBe("true");
    expect(field.value).toBe("950");
  });

  it("sends nothing for an empty form or a time that cannot be read", async () => {
    const sent = server(running());
    store();
    await waitFor(() => expect(form.getByRole("alert").textContent).toContain("Type a pressure"));
    type("PG-101 shows, bar", "26");
    type("Time (UTC)", "half past nine");
    store();
    await waitFor(() => expect(form.getByRole("alert").textContent).toContain("Write the time as"));
    expect(sent).toEqual([]);
  });
});

describe("events", () => {
  const end = [{ kind: "hold_ended", label: "End the hold", asks: "End the hold?" }] as const;

  it("ask before they end something", async () => {
    const sent = server(running());
    const shown = await screen(<EventButtons attempt="a1" events={end} />, running());
    fireEvent.click(shown.getByRole("button", { name: "End the hold" }));
    const dialog = within(await shown.findByRole("dialog"));
    fireEvent.click(dialog.getByRole("button", { name: "Not yet" }));
    await waitFor(() => expect(shown.queryByRole("dialog")).toBeNull());
    expect(sent).toEqual([]);
    fireEvent.click(shown.getByRole("button", { name: "End the hold" }));
    fireEvent.click(within(await shown.findByRole("dialog")).getByRole("button", { name: "End the hold" }));
    await waitFor(() => expect(sent.length).toBe(1));
    expect(sent[0]?.body).toMatchObject({ kind: "hold_ended" });
  });

  it("take a measured volume in any unit, bare in litres or gallons by the person's choice", async () => {
    for (const [unit, typed, m3] of [
      ["", "0,9", 0.9e-3],
      ["", "0.2 gal", 0.2 * 3.785411784e-3],
      ["us_gallon", "0.2", 0.2 * 3.785411784e-3],
    ] as const) {
      if (unit) localStorage.setItem("unit-volume", unit);
      const sent = server(running(), {});
      const view = await screen(
        <EventButtons attempt="a1" size="normal" events={[{ kind: "repump", label: "Repumped", asks: "Repumped?", measured: true }]} />,
        running(),
      );
      fireEvent.click(view.getByRole("button", { name: "Repumped" }));
      const dialog = within(await view.findByRole("dialog"));
      fireEvent.change(dialog.getByLabelText(unit ? /Volume measured, US.gal/ : "Volume measured, L"), { target: { value: typed } });
      fireEvent.click(dialog.getByRole("button", { name: "Repumped" }));
      await waitFor(() => expect(sent.length).toBe(1));
      expect(((sent[0]?.body ?? {}) as { volume_m3: number }).volume_m3).toBeCloseTo(m3, 9);
      cleanup();
    }
  });

  it("are kept on this device while there is no answer, and sent later with their id and time", async () => {
    const sent = server(running(), "unreachable", "unreachable", {});
    const shown = await screen(<EventButtons attempt="a1" events={[{ kind: "filled", label: "Filled" }]} />, running());
    fireEvent.click(shown.getByRole("button", { name: "Filled" }));
    await waitFor(() => expect(sent.length).toBe(1));
    // tapped again it is not kept twice
    fireEvent.click(shown.getByRole("button", { name: "Filled" }));
    await waitFor(() => expect(shown.getByText(/kept on this device already/)).toBeTruthy());
    expect(sent.length).toBe(1);
    expect(await sendKept()).toBe(false);
    expect(await sendKept()).toBe(true);
    expect(sent.map((s) => s.path)).toEqual([sent[0]?.path, sent[0]?.path, sent[0]?.path]);
    expect(sent[2]?.body).toEqual(sent[0]?.body);
    expect(await sendKept()).toBe(false);
    expect(sent.length).toBe(3);
  });

  it("stay on this device with their sentence where they are refused on arrival, and what was done after them waits", async () => {
    const event = (id: string, kind: "filled" | "pump_off", attempt = "a1"): Act => ({
      id,
      attempt,
      at: "2026-06-01T08:00:00Z",
      words: kind,
      does: { is: "event", body: { kind, at: "2026-06-01T08:00:00Z", note: "" } },
    });
    const sent = server(running(), "unreachable", problem(409, "PG-101 read 5.00 bar then."), {}, {}, {});
    expect((await perform([event("e1", "filled"), event("e2", "pump_off")])).kept).toBe(true);
    // the first is refused; the second of its test waits behind it, another test's goes on
    await sendKept();
    await perform([event("e3", "filled", "a2")]);
    expect(sent.map((s) => s.path.split("/").at(-1))).toEqual(["e1", "e1", "e3"]);
    const shown = await screen(<KeptActs attempt="a1" />, running());
    expect(shown.getByRole("alert").textContent).toContain("PG-101 read 5.00 bar then.");
    expect(shown.getByText(/not yet sent/).parentElement?.textContent).toContain("pump_off");
    fireEvent.click(shown.getByRole("button", { name: /take it off/ }));
    await waitFor(() => expect(shown.queryByRole("alert")).toBeNull());
    await sendKept();
    await waitFor(() => expect(sent.at(-1)?.path.split("/").at(-1)).toBe("e2"));
  });

  it("show the server's sentence when the order of restoring forbids one", async () => {
    server(running(), problem(409, "Open the high vent before draining."));
    const shown = await screen(<EventButtons attempt="a1" events={[{ kind: "drained", label: "Drained" }]} />, running());
    fireEvent.click(shown.getByRole("button", { name: "Drained" }));
    await waitFor(() => expect(shown.getByText("Open the high vent before draining.")).toBeTruthy());
  });

  it("give a leak the class of its place", async () => {
    const sent = server(running());
    let closed = false;
    const shown = await screen(<LeakDialog attempt="a1" open onClose={() => (closed = true)} />, running());
    fireEvent.change(shown.getByLabelText("Where"), { target: { value: "weld" } });
    fireEvent.change(shown.getByLabelText("What was seen"), { target: { value: "weld 12 weeps" } });
    fireEvent.click(shown.getByRole("button", { name: "Book it" }));
    await waitFor(() => expect(closed).toBe(true));
    expect(sent[0]?.body).toMatchObject({ kind: "leak_seen", place: "weld", note: "weld 12 weeps" });
  });
});
