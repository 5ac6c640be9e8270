import { act, cleanup, fireEvent, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { setClock, siteNow } from "../src/api/clock";
import type { Pack, Schema } from "../src/api/client";
import { LookDialog, RigHand } from "../src/booking";
import { Loud } from "../src/app/loud";
import { Raise } from "../src/features/raise";
import { ReadGauge } from "../src/features/read-gauge";
import { LiveProvider } from "../src/live";
import { AlsoRecorded } from "../src/planning/also-recorded";
import { running } from "./demo";
import { screen, server } from "./screen";

/** A stream that the test speaks through. */
class Stream {
  static last: Stream | undefined;
  private listeners = new Map<string, (e: { data: string }) => void>();
  onerror: (() => void) | null = null;
  closed = false;
  constructor(readonly url: string) {
    Stream.last = this;
  }
  addEventListener(name: string, listen: (e: { data: string }) => void) {
    this.listeners.set(name, listen);
  }
  close() {
    this.closed = true;
  }
  say(name: string, data: unknown) {
    act(() => this.listeners.get(name)?.({ data: JSON.stringify(data) }));
  }
}

beforeEach(() => vi.stubGlobal("EventSource", Stream));
afterEach(() => {
  cleanup();
  localStorage.clear();
  setClock(new Date().toISOString(), 1);
});

/** A raise to the third of four steps, nothing booked after it. */
function raising(): Pack {
  const pack = running();
  const attempt = pack.attempts.at(-1);
  if (!attempt) throw new Error("the demo's run has an attempt");
  attempt.events = attempt.events.filter((e) => e.kind === "filled");
  return pack;
}

const NOW = "2026-11-26T09:00:00Z";
function view(change: Partial<Schema["LiveView"]> = {}): Schema["LiveView"] {
  return {
    now: NOW,
    clock_rate: 1,
    last_seq: 7,
    recorded: true,
    on_the_rig: false,
    pressure_pa: 18.8e5,
    age_s: 1,
    temperature_c: 15.2,
    instruction: "Raise to 19.1 bar, then stop the pump.",
    barrier: "Nobody inside the barrier while it rises.",
    next_step: { number: 3, target_pa: 19.1e5, hold_s: 300, raise_from_s: 0, reached_s: 0, ends_s: 0, words: "stop the pump, hold 5 min, look" },
    reached: 2,
    forecast: { rate_pa_per_s: 15_000, per_stroke_pa: 60_000, to_go_pa: 30_000, strokes_to_go: 0.5, seconds_to_go: 2, peak_pa: 19.3e5, loudness: "quiet", word: "" },
    countdown: null,
    channels: [],
    agreements: [],
    pumping: null,
    warnings: [],
    falling: null,
    typed_by: null,
    silent: false,
    ...change,
  };
}

async function raise(pack = raising()) {
  const attempt = pack.attempts.at(-1)?.id ?? "";
  const changed = vi.fn();
  const page = await screen(
    <LiveProvider attempt={attempt} gauge={0} onChanged={changed}>
      <Loud />
      <Raise />
    </LiveProvider>,
    pack,
  );
  const stream = Stream.last;
  if (!stream) throw new Error("nothing is followed");
  return { ...page, stream, changed, attempt };
}

describe("the run screen", () => {
  it("follows the attempt, shows the needle, what is to go, and who may be inside", async () => {
    const { stream, container, attempt } = await raise();
    expect(stream.url).toBe(`/api/v1/attempts/${attempt}/live?units=`);
    stream.say("view", view({ agreements: [{ tag: "PT-72", at_first_pa: 18.7e5, difference_pa: -9e4, allowed_pa: 1e4, agrees: false }] }));
    const text = container.textContent ?? "";
    expect(container.querySelector("[data-needle]")?.textContent).toBe("18.80");
    for (const words of [
      "Raise to 19.1 bar, then stop the pump.",
      "Nobody inside the barrier",
      "0.30\u00a0bar to go",
      "about 1 stroke, 2 s",
      "PT-72 disagrees, 0.90 less",
    ])
      expect(text).toContain(words);
  });

  it("says an alarm across the whole width before the limit, and a part that gives way before all", async () => {
    const { stream, queryByRole, getByRole } = await raise();
    stream.say("view", view());
    expect(queryByRole("alert")).toBeNull();
    const forecast = view().forecast;
    stream.say("view", view({ forecast: forecast && { ...forecast, loudness: "stop_now", word: "STOP THE PUMP" } }));
    expect(getByRole("alert").textContent).toBe("STOP THE PUMP");
    const pumping = {
      points: [],
      without_air: [],
      with_air: [],
      limit: 0.002,
      air: null,
      says: null,
      sentence: "",
      giving_way: "yielding" as const,
      let_down: 0,
      strokes: 12,
      strokes_per_min: 20,
      per_stroke_pa: 1e4,
    };
    stream.say("view", view({ pumping }));
    expect(getByRole("alert").textContent).toContain("IT GIVES WAY");
  });

  it("does not pass off an old reading as live", async () => {
    const { stream, container } = await raise();
    stream.say("view", view({ age_s: 42, silent: true }));
    expect(container.textContent).not.toContain("live");
    expect(container.querySelector("[data-needle]")?.className).toContain("text-soft");
    expect(container.querySelector("[data-not-now]")?.textContent).toContain("has not answered for 42 s: this is not now");
    stream.say("view", view({ age_s: 8, silent: true, typed_by: "reader" }));
    expect(container.querySelector("[data-not-now]")?.textContent).toContain("does not answer: typed by reader 8 s ago");
  });

  it("says across the figure that the server was not heard for three seconds, and takes it back when it is heard again", async () => {
    const { stream, container } = await raise();
    const clock = vi.spyOn(performance, "now");
    const at = performance.now();
    clock.mockReturnValue(at);
    stream.say("view", view());
    expect(container.querySelector("[data-not-now]")).toBeNull();
    clock.mockReturnValue(at + 3600);
    await waitFor(() => expect(container.querySelector("[data-not-now]")?.textContent).toMatch(/^Nothing heard from the server for \d+ s: this is not now$/));
    stream.say("view", view());
    expect(container.querySelector("[data-not-now]")).toBeNull();
    clock.mockRestore();
  });

  it("is as loud when the hold falls through its lower bound as when a raise goes through the upper", async () => {
    const { stream, getByRole, queryByRole } = await raise();
    stream.say("view", view({ falling: { low: "quiet", reaches_s: 4000, word: "", sentence: "" } }));
    expect(queryByRole("alert")).toBeNull();
    stream.say("view", view({ falling: { low: "nears", reaches_s: 720, word: "Falling: reaches the lower bound in 12 min", sentence: "" } }));
    expect(getByRole("alert").textContent).toContain("in 12 min");
    stream.say("view", view({ falling: { low: "below", reaches_s: null, word: "BELOW THE LOWER BOUND: THIS HOLD CANNOT PASS", sentence: "" } }));
    expect(getByRole("alert").textContent).toContain("BELOW THE LOWER BOUND");
    expect(getByRole("alert").className).toContain("bg-danger");
  });

  it("books the step with one tap, and asks before it ends the test", async () => {
    const { stream, getByRole } = await raise();
    stream.say("view", view());
    const sent = server(raising());
    fireEvent.click(getByRole("button", { name: /Pump stopped at/ }));
    await waitFor(() => expect(sent.map((s) => s.body)).toMatchObject([{ kind: "step_reached" }]));
    fireEvent.click(getByRole("button", { name: "Stop: release pressure" }));
    const dialog = within(getByRole("dialog"));
    expect(dialog.getByText(/never by easing a plug/)).toBeTruthy();
    expect(sent.length).toBe(1);
    fireEvent.click(dialog.getByRole("button", { name: /Released, zero proved/ }));
    await waitFor(() => expect(sent[1]?.body).toMatchObject({ kind: "released" }));
  });

  it("books what happened in one tap, in the words of the button", async () => {
    const { stream, getByRole } = await raise();
    stream.say("view", view());
    const sent = server(raising());
    fireEvent.click(getByRole("button", { name: /Something happened/ }));
    fireEvent.click(within(getByRole("dialog")).getByRole("button", { name: "support moved" }));
    await waitFor(() => expect(sent[0]?.body).toMatchObject({ kind: "noted", note: "support moved" }));
  });

  it("tells the rest of the page when something was booked, and leaves when it is left", async () => {
    const { stream, changed, unmount } = await raise();
    stream.say("changed", null);
    expect(changed).toHaveBeenCalledOnce();
    unmount();
    expect(stream.closed).toBe(true);
  });
});

describe("a training clock", () => {
  it("runs by the server's time, as many times as fast", () => {
    vi.useFakeTimers({ now: Date.parse("2026-11-26T12:00:00Z") });
    setClock("2026-11-26T08:00:00Z", 20);
    vi.advanceTimersByTime(3_000);
    expect(new Date(siteNow()).toISOString()).toBe("2026-11-26T08:01:00.000Z");
    // a device whose clock is set back counts on
    vi.setSystemTime(Date.parse("2026-11-26T11:00:00Z"));
    expect(new Date(siteNow()).toISOString()).toBe("2026-11-26T08:01:00.000Z");
    setClock("nonsense", 5);
    expect(new Date(siteNow()).toISOString()).toBe("2026-11-26T08:01:00.000Z");
    vi.useRealTimers();
  });
});

describe("looks, rig and phone", () => {
  it("takes a look at a class only with how many there are", async () => {
    const { getByLabelText, getByRole } = await screen(<LookDialog attempt="a1" open onClose={() => {}} />, running());
    const sent = server(running());
    fireEvent.submit(getByRole("button", { name: "Book this class" }));
    await waitFor(() => expect(getByRole("alert").textContent).toContain("how many places"));
    fireEvent.change(getByLabelText("How many were looked at"), { target: { value: "18" } });
    fireEvent.submit(getByRole("button", { name: "Book this class" }));
    await waitFor(() => expect(sent[0]?.body).toMatchObject({ kind: "look_done", place: "weld", looked: 18 }));
  });

  it("runs and stops the rig's pump, and shuts the bleed when it pumps", async () => {
    const { getByRole } = await screen(<RigHand attempt="a1" />, running());
    const sent = server(running());
    fireEvent.click(getByRole("button", { name: "Open the rig's bleed" }));
    await waitFor(() => getByRole("button", { name: "Shut the rig's bleed" }));
    fireEvent.click(getByRole("button", { name: "Run the rig's pump" }));
    await waitFor(() => getByRole("button", { name: "Stop the rig's pump" }));
    expect(sent.map((s) => s.body)).toMatchObject([
      { pump: false, bleed: 0.3 },
      { pump: true, bleed: 0 },
    ]);
    expect(sent[0]?.path).toBe("/api/v1/attempts/a1/rig");
  });

  it("says that a role that does not book reads along", async () => {
    const pack = running();
    pack.may.book = false;
    const { getByText } = await screen(<ReadGauge />, pack);
    expect(getByText(/your role does not book readings/)).toBeTruthy();
  });

  it("adds an instrument once, with its height, and takes it off", async () => {
    const instruments = [
      { tag: "PT-72", kind: "gauge" },
      { tag: "SC-71", kind: "stroke_counter" },
      { tag: "PT-71", kind: "gauge" },
    ] as Schema["Instrument"][];
    const onChange = vi.fn();
    const { getByLabelText, getByRole } = await screen(
      <AlsoRecorded also={[{ tag: "PT-72", elevation_m: 14 }]} instruments={instruments} taken={["PT-71"]} onChange={onChange} />,
      running(),
    );
    const choice = getByLabelText("Add an instrument to be recorded") as HTMLSelectElement;
    expect([...choice.options].map((o) => o.value)).toEqual(["", "SC-71"]);
    fireEvent.change(choice, { target: { value: "SC-71" } });
    expect(onChange.mock.lastCall?.[0]).toMatchObject([{ tag: "PT-72" }, { tag: "SC-71" }]);
    fireEvent.change(getByLabelText("Height of PT-72, m"), { target: { value: "13,5" } });
    expect(onChange.mock.lastCall?.[0]).toMatchObject([{ tag: "PT-72", elevation_m: 13.5 }]);
    fireEvent.click(getByRole("button", { name: "Take off" }));
    expect(onChange.mock.lastCall?.[0]).toEqual([]);
  });
});
