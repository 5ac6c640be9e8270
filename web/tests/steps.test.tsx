import { cleanup, fireEvent, waitFor, within } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { Pack, Plan } from "../src/api/client";
import { Judge } from "../src/features/judge";
import { Prove } from "../src/features/prove";
import { Ready } from "../src/features/ready";
import { Restore } from "../src/features/restore";
import { ready, running } from "./demo";
import { problem, screen, server } from "./screen";

afterEach(() => {
  cleanup();
  localStorage.clear();
});

type Form = Awaited<ReturnType<typeof screen>>;
const input = (form: Form, label: string) => form.getByLabelText(label) as HTMLInputElement;
const type = (form: Form, label: string, text: string) => fireEvent.change(input(form, label), { target: { value: text } });

describe("Prove", () => {
  it("shows a pressure in the unit that the person chose", async () => {
    const pack = ready();
    server(pack);
    localStorage.setItem("unit", "psi");
    const form = await screen(<Prove />, pack);
    // 16 bar by the exact definition of the pound-force per square inch
    const psi = (16e5 * 0.0254 ** 2) / (0.45359237 * 9.80665);
    expect(Number(input(form, "Design pressure, psi").value)).toBeCloseTo(psi, 3);
  });

  it("saves what was typed in SI", async () => {
    const pack = ready();
    const sent = server(pack, { body: { ...pack, version: pack.version + 1 } });
    const form = await screen(<Prove />, pack);
    type(form, "Design pressure, bar", "17,5");
    type(form, "Hold, minutes", "45");
    type(form, "Leak to rule out, L/h", "0.1");
    fireEvent.submit(form.getByRole("button", { name: "Save" }));
    await waitFor(() => expect(sent.length).toBe(1));
    const [first] = sent;
    if (!first) throw new Error("nothing was sent");
    const { plan } = first.body as { plan: Plan };
    expect(plan.basis).toMatchObject({ id: "b31_3", design_pressure_pa: 17.5e5 });
    expect(plan.hold_s).toBe(2700);
    expect(plan.required_sensitivity_m3_per_s).toBeCloseTo(0.1 / 3.6e6, 15);
  });

  it("understands a figure with another unit in every field", async () => {
    const pack = ready();
    const sent = server(pack, { body: { ...pack, version: pack.version + 1 } });
    const form = await screen(<Prove />, pack);
    type(form, "Design pressure, bar", "250 psi");
    type(form, "Hold, minutes", "1.5 h");
    type(form, "Design temperature, °C", "212 F");
    fireEvent.submit(form.getByRole("button", { name: "Save" }));
    await waitFor(() => expect(sent.length).toBe(1));
    const { plan } = (sent[0]?.body ?? {}) as { plan: Plan };
    expect(plan.basis.design_pressure_pa).toBeCloseTo(250 * 6894.757293, 1);
    expect(plan.hold_s).toBe(5400);
    expect(plan.basis.design_temperature_c).toBeCloseTo(100, 9);
  });

  it("asks for the time of the owner's fall, holds as long, and saves both in SI", async () => {
    const pack = ready();
    const sent = server(pack, { body: { ...pack, version: pack.version + 1 } });
    const form = await screen(<Prove />, pack);
    expect(form.queryByLabelText("Within, hours")).toBeNull();
    type(form, "Fall that the owner allows, %", "1,5");
    await waitFor(() => type(form, "Within, hours", "4"));
    await waitFor(() => expect(form.getByText("The owner's fall is judged over 240 min.")).toBeTruthy());
    type(form, "Hold, minutes", "240");
    fireEvent.submit(form.getByRole("button", { name: "Save" }));
    await waitFor(() => expect(sent.length).toBe(1));
    const [first] = sent;
    if (!first) throw new Error("nothing was sent");
    const { plan } = first.body as { plan: Plan };
    expect(plan.basis.owners_fall).toEqual({ share: 0.015, within_s: 14_400 });
    // what is saved is shown again
    cleanup();
    const saved = { ...pack, plan: { ...pack.plan, basis: plan.basis } };
    server(saved);
    const again = await screen(<Prove />, saved);
    expect([input(again, "Fall that the owner allows, %").value, input(again, "Within, hours").value]).toEqual(["1.5", "4"]);
  });

  it("stops a figure that is none before the server is asked", async () => {
    const sent = server(ready());
    const form = await screen(<Prove />, ready());
    type(form, "Design pressure, bar", "sixteen");
    fireEvent.submit(form.getByRole("button", { name: "Save" }));
    await waitFor(() => expect(form.getByRole("alert").textContent).toContain("a figure, for example"));
    expect(sent).toEqual([]);
  });

  it("puts the server's refusal under the field that it names", async () => {
    server(ready(), problem(422, "The basis asks for at least 10 minutes.", "hold_s"));
    const form = await screen(<Prove />, ready());
    type(form, "Hold, minutes", "5");
    fireEvent.submit(form.getByRole("button", { name: "Save" }));
    await waitFor(() => expect(form.getByRole("alert").textContent).toContain("at least 10 minutes"));
    expect(input(form, "Hold, minutes").getAttribute("aria-invalid")).toBe("true");
    expect(input(form, "Hold, minutes").value).toBe("5");
  });
});

describe("Ready", () => {
  const shut = (pack: Pack, n: number): Pack => ({
    ...pack,
    gates: pack.gates.map((g, i) => (i < n ? { ...g, ready: false, sentence: `Shut ${i}.`, who: "inspector" } : g)),
  });
  const may = (pack: Pack): Pack => ({ ...pack, may: { ...pack.may, release: true } });

  it("keeps the release shut while one gate is, and names who clears it", async () => {
    const pack = may(shut(ready(), 2));
    server(pack);
    const form = await screen(<Ready />, pack);
    expect(form.getByText("2 things stop this test.")).toBeTruthy();
    expect(form.getAllByText(/inspector clears it/).length).toBe(2);
    expect((form.getByRole("button", { name: "Release for test" }) as HTMLButtonElement).disabled).toBe(true);
  });

  it("asks why before a signed record is superseded", async () => {
    const pack = may(ready());
    const signed = { ...running().attempts[0], over: true, frozen: true, number: 1 } as Pack["attempts"][number];
    const form = await (async () => {
      const shown = { ...pack, attempts: [signed] };
      server(shown, problem(422, "The last attempt is signed: that needs a reason.", "supersedes_reason"));
      return screen(<Ready />, shown);
    })();
    expect(form.getByLabelText("Why the signed record is superseded")).toBeTruthy();
    fireEvent.click(form.getByRole("button", { name: "Release attempt 2" }));
    await waitFor(() => expect(form.getByText(/needs a reason/)).toBeTruthy());
  });

  it("shows no release to whoever may not", async () => {
    const pack = { ...ready(), may: { ...ready().may, release: false } };
    server(pack);
    const form = await screen(<Ready />, pack);
    expect(form.queryByRole("button", { name: "Release for test" })).toBeNull();
    expect(form.getByText(/The supervisor releases this test/)).toBeTruthy();
  });
});

describe("Judge", () => {
  const judged = (change: (j: NonNullable<Pack["attempts"][number]["judgement"]>) => void) => {
    const pack = running();
    const judgement = pack.attempts[0]?.judgement;
    if (!judgement) throw new Error("the demo's run is judged as it goes");
    change(judgement);
    server(pack);
    return screen(<Judge />, pack);
  };

  it("keeps the three lines apart, with every rule below", async () => {
    const form = await judged((j) => {
      j.lines = {
        by_basis: { outcome: "does_not_meet", sentence: "Something that is asked was not held.", because: ["Fell to 20 bar."] },
        leak: { said: "cannot_tell", sentence: "No leak is shown; below 1 L/h this record cannot tell." },
        would_settle: ["A hold of 3 h would settle it."],
      };
    });
    expect(form.getByRole("heading", { level: 1 }).textContent).toContain("does not meet");
    const line = (name: string) => form.container.querySelector(`[data-line=${name}]`)?.textContent;
    expect(line("by_basis")).toContain("Fell to 20 bar.");
    expect(line("leak")).toContain("No leak is shown");
    expect(line("would_settle")).toContain("A hold of 3 h");
    expect(form.container.textContent).toContain("HOLD-TIME");
  });

  it("never says that it meets when something is missing", async () => {
    const form = await judged((j) => {
      if (j.lines) j.lines.by_basis.outcome = "not_complete";
      j.found.finding = "not_shown";
      j.found.reasons = ["No temperature was recorded."];
      j.found.leak = null;
    });
    expect(form.getByRole("heading", { level: 1 }).textContent).toContain("not complete");
    expect(form.getByText("No temperature was recorded.")).toBeTruthy();
    expect(form.queryByText("ruled out, 99.9 %")).toBeNull();
  });

  it("answers every why of the finding with formula and figures, and that of a rule with what it asks", async () => {
    const form = await judged(() => {});
    for (const figure of ["fall that heat explains", "mean leak over the hold", "leak that is ruled out", "least leak it could have shown"]) {
      fireEvent.click(form.getByRole("button", { name: `why: ${figure}` }));
      const dialog = within(await form.findByRole("dialog"));
      expect(dialog.getAllByText(/[=·√]|3\.29|99\.9 %/, { selector: ".num" }).length).toBeGreaterThan(0);
      fireEvent.keyDown(form.getByRole("dialog"), { key: "Escape" });
      await waitFor(() => expect(form.queryByRole("dialog")).toBeNull());
    }
    const [clock] = form.getAllByRole("button", { name: "why: HOLD-TIME" });
    if (!clock) throw new Error("the hold's time has no why");
    fireEvent.click(clock);
    expect((await form.findByRole("dialog")).textContent).toContain("counted from the last pump-off or repump");
  });

  it("lets a defect stand only with a reason, and names it", async () => {
    const pack = running();
    const attempt = pack.attempts[0];
    if (!attempt?.judgement) throw new Error("the demo's run is judged as it goes");
    pack.may.judge = true;
    attempt.frozen = false;
    attempt.judgement.found.defects = [{ kind: "spike", channel: "PG-101", start_s: 3900, end_s: 3900, readings: 1 }];
    const sent = server(pack, {});
    const form = await screen(<Judge />, pack);
    expect(form.getByText("single readings far from their neighbours, left out")).toBeTruthy();
    fireEvent.click(form.getByRole("button", { name: "let it stand" }));
    fireEvent.submit(form.getByRole("button", { name: "Book it" }));
    expect(await form.findByText("Say why, in a few words.")).toBeTruthy();
    expect(sent).toHaveLength(0);
    fireEvent.change(form.getByLabelText("Why"), { target: { value: "read twice, it was so" } });
    fireEvent.submit(form.getByRole("button", { name: "Book it" }));
    await waitFor(() => expect(sent).toHaveLength(1));
    expect(sent[0]?.path).toMatch(/\/corrections\//);
    expect(sent[0]?.body).toEqual({ what: "overrule", kind: "spike", channel: "PG-101", start_s: 3900, reason: "read twice, it was so" });
  });

  it("shows a small leak in mL/h and a larger in L/h", async () => {
    const form = await judged((j) => {
      j.found.finding = "leak_shown";
      if (j.found.leak)
        Object.assign(j.found.leak, { mean_m3_per_s: 2 / 3.6e6, lo_m3_per_s: 1.5 / 3.6e6, hi_m3_per_s: 2.5 / 3.6e6, detection_limit_m3_per_s: 0.009 / 3.6e6 });
    });
    const text = form.container.textContent?.replaceAll("\u00a0", " ") ?? "";
    expect(text).toContain("2 L/h, between 1.5 L/h and 2.5 L/h");
    expect(text).toContain("9 mL/h");
  });
});

describe("Restore", () => {
  it("offers only what does not wait for something else", async () => {
    const pack = running();
    server(pack);
    const form = await screen(<Restore />, pack);
    const buttons = [...form.container.querySelectorAll("li button")] as HTMLButtonElement[];
    expect(buttons.length).toBeGreaterThan(0);
    expect(buttons.filter((b) => !b.disabled).map((b) => b.textContent)).toEqual(["Released, zero proved"]);
  });

  it("books the release under the run, and shows the sentence when it is refused", async () => {
    const pack = running();
    const sent = server(pack, problem(409, "The hold was never ended."));
    const form = await screen(<Restore />, pack);
    fireEvent.click(form.getByRole("button", { name: "Released, zero proved" }));
    expect(sent, "asked first: nothing is booked by a slip").toEqual([]);
    fireEvent.click(within(await form.findByRole("dialog")).getByRole("button", { name: /Released, zero proved/ }));
    await waitFor(() => expect(form.getByRole("alert").textContent).toContain("never ended"));
    expect(sent[0]?.path).toContain(`/attempts/${pack.attempts[0]?.id}/events/`);
    expect(sent[0]?.body).toMatchObject({ kind: "released" });
  });
});

vi.setConfig({ testTimeout: 15_000 });
