import { act, cleanup, renderHook } from "@testing-library/react";
import { useForm } from "react-hook-form";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { type Act, dropAct, perform } from "../src/api/outbox";
import { keptTyping, setTyper, sweepTyping, unsaved, useKept, useTyping } from "../src/api/typing";
import { useTypingForm } from "../src/api/typing-form";

beforeEach(() => {
  vi.useFakeTimers();
  setTyper("supervisor");
});
afterEach(() => {
  cleanup();
  vi.useRealTimers();
  localStorage.clear();
});
const wait = (ms: number) => act(() => vi.advanceTimersByTime(ms));

describe("what is typed and not saved", () => {
  const typed = (value: string, dirty = true) =>
    renderHook((p) => useTyping({ key: "k", what: "the plan", value: () => p.value, dirty: p.dirty }), { initialProps: { value, dirty } });

  it("is kept on the device a moment later, and asked about", () => {
    const hook = typed("a");
    expect(unsaved()).toEqual(["the plan"]);
    expect(hook.result.current.words).toBe("not saved yet; kept on this device");
    wait(400);
    expect(keptTyping("k")).toBe("a");
    hook.rerender({ value: "ab", dirty: true });
    wait(400);
    expect(keptTyping("k")).toBe("ab");
  });

  it("is kept when the page is left before that moment, and is that person's alone", () => {
    typed("a").unmount();
    expect(keptTyping("k")).toBe("a");
    expect(unsaved()).toEqual([]);
    setTyper("reader");
    expect(keptTyping("k")).toBeUndefined();
  });

  it("is forgotten at once when it is saved, and not written again by a moment that was waited for", () => {
    const hook = typed("a");
    hook.result.current.done();
    expect(unsaved()).toEqual([]);
    // the form still shows it while the next page comes
    hook.rerender({ value: "a", dirty: true });
    expect(unsaved()).toEqual([]);
    wait(1000);
    hook.unmount();
    expect(keptTyping("k")).toBeUndefined();
  });

  it("says so when the device has no room for it", () => {
    const full = vi.spyOn(Storage.prototype, "setItem").mockImplementation(() => {
      throw new DOMException("full", "QuotaExceededError");
    });
    const hook = typed("a");
    wait(400);
    expect(hook.result.current.words).toBe("not saved yet, and too much to keep on this device");
    full.mockRestore();
  });

  it("is swept away after a fortnight, and so is what nobody can read", () => {
    typed("a").unmount();
    localStorage.setItem("typed:reader:broken", "{");
    localStorage.setItem("unit", "psi");
    vi.setSystemTime(Date.now() + 13 * 24 * 3600_000);
    sweepTyping();
    expect(keptTyping("k")).toBe("a");
    vi.setSystemTime(Date.now() + 2 * 24 * 3600_000);
    expect(keptTyping("k")).toBeUndefined();
    sweepTyping();
    expect(Object.keys(localStorage)).toEqual(["unit"]);
  });
});

describe("a form", () => {
  const form = () =>
    renderHook(
      (defaults: { title: string; basis: { id: string } }) => {
        const form = useForm({ defaultValues: defaults });
        const typing = useTypingForm(form, "f", "the test");
        return { form, typing, dirty: form.formState.isDirty };
      },
      { initialProps: { title: "as stored", basis: { id: "b31_3" } } },
    );

  it("gets back only what was changed, on top of what it then holds", () => {
    const first = form();
    act(() => first.result.current.form.setValue("basis.id", "en_13480", { shouldDirty: true }));
    wait(400);
    first.unmount();
    expect(keptTyping("f")).toEqual([["basis.id", "en_13480"]]);
    const again = form();
    expect(again.result.current.form.getValues()).toEqual({ title: "as stored", basis: { id: "en_13480" } });
    expect(again.result.current.dirty).toBe(true);
    act(() => again.result.current.typing.done());
    again.unmount();
    expect(keptTyping("f")).toBeUndefined();
  });

  it("is kept of a dialog's fields until it is booked", () => {
    const NONE = { place: "weld", note: "" };
    const first = renderHook(() => useKept("leak", "a leak", NONE));
    expect(unsaved()).toEqual([]);
    act(() => first.result.current[1]({ note: "F-12 weeps" }));
    expect(unsaved()).toEqual(["a leak"]);
    first.unmount();
    const again = renderHook(() => useKept("leak", "a leak", NONE));
    expect(again.result.current[0]).toEqual({ place: "weld", note: "F-12 weeps" });
    act(() => again.result.current[2]());
    expect(again.result.current[0]).toEqual(NONE);
    expect(unsaved()).toEqual([]);
    again.unmount();
    expect(keptTyping("leak")).toBeUndefined();
  });

  it("stays where it was typed while what was sent before was on its way", () => {
    const hook = renderHook(() => useKept("bar", "a reading", { shows: "", warm: "" }));
    act(() => hook.result.current[1]({ shows: "7.50", warm: "16" }));
    const sent = hook.result.current[0];
    act(() => hook.result.current[1]({ shows: "7.45" }));
    act(() => hook.result.current[2](sent));
    expect(hook.result.current[0]).toEqual({ shows: "7.45", warm: "" });
    wait(400);
    expect(keptTyping("bar")).toEqual({ shows: "7.45", warm: "" });
  });
});

describe("an act that gets no answer", () => {
  it("is said to be nowhere where the device has no room to keep it", async () => {
    vi.useRealTimers();
    vi.stubGlobal("fetch", () => Promise.reject(new TypeError("no network")));
    const act = (id: string): Act => ({
      id,
      attempt: "a",
      at: "2026-06-01T08:00:00Z",
      words: "filled",
      does: { is: "event", body: { kind: "filled", at: "2026-06-01T08:00:00Z", note: "" } },
    });
    expect(await perform([act("1")])).toMatchObject({ kept: true, why: "" });
    dropAct("1");
    const full = vi.spyOn(Storage.prototype, "setItem").mockImplementation(() => {
      throw new DOMException("full", "QuotaExceededError");
    });
    const became = await perform([act("2")]);
    expect(became.kept).toBe(false);
    expect(became.why).toContain("Write it on paper with its time");
    full.mockRestore();
    vi.unstubAllGlobals();
  });
});
