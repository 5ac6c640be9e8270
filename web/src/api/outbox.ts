import { useEffect, useSyncExternalStore } from "react";
import { http, problemField, type Schema, sentence } from "./client";
import { typer } from "./typing";

/** What was done while the server could not be reached: it stays on this device, in its order, and is sent by itself. The server holds each against the
 * state and the pressure at its own time; what it refuses stays here with its sentence until whoever did it decides. */
export interface Act {
  id: string;
  attempt: string;
  at: string;
  /** What it is, as a person reads it. */
  words: string;
  does: { is: "event"; body: Schema["NewEvent"] } | { is: "readings"; body: Schema["Readings"] } | { is: "looks"; body: Schema["AllDryExcept"] };
  /** Why the server refused it. */
  refused?: string;
  /** True where the server only asks whether the gauge really shows this. */
  asked?: boolean;
}

/** What is kept has a number, so that an older one is known for what it is. */
const FORMAT = 1;
const EVERY_MS = 3000;
const place = () => `acts:${typer()}`;
const NONE: readonly Act[] = [];

let known: { key: string; text: string; acts: readonly Act[] } = { key: "", text: "", acts: NONE };
const hearers = new Set<() => void>();
let sending = false;

function acts(): readonly Act[] {
  const key = place();
  const text = localStorage.getItem(key) ?? "";
  if (known.key === key && known.text === text) return known.acts;
  try {
    const kept = JSON.parse(text || "null") as { format: number; acts: Act[] } | null;
    known = { key, text, acts: kept?.format === FORMAT ? kept.acts : NONE };
  } catch {
    known = { key, text, acts: NONE };
  }
  return known.acts;
}

function keep(next: readonly Act[]) {
  if (next.length) localStorage.setItem(place(), JSON.stringify({ format: FORMAT, acts: next }));
  else localStorage.removeItem(place());
  for (const hear of hearers) hear();
}

async function send(act: Act) {
  const { id, attempt } = act;
  if (act.does.is === "event") return http.PUT("/api/v1/attempts/{attempt}/events/{event}", { params: { path: { attempt, event: id } }, body: act.does.body });
  if (act.does.is === "looks") return http.PUT("/api/v1/attempts/{attempt}/looks/{event}", { params: { path: { attempt, event: id } }, body: act.does.body });
  return http.PUT("/api/v1/attempts/{attempt}/readings", { params: { path: { attempt } }, body: act.does.body });
}

/** Sends what is kept, of each test in its order; true where something was taken. */
export async function sendKept(): Promise<boolean> {
  if (sending) return false;
  sending = true;
  let taken = false;
  try {
    for (;;) {
      const all = acts();
      // behind one that was refused the others of its test wait: what they rest on is not decided
      const next = all.find((a) => !all.some((b) => b.attempt === a.attempt && b.refused) && a.attempt);
      if (!next) return taken;
      const { error, response } = await send(next);
      if (error && (response.status >= 500 || response.status === 429 || response.status === 401)) return taken;
      const asked = (error as { type?: string } | undefined)?.type === "/problems/doubtful";
      keep(acts().flatMap((a) => (a.id !== next.id ? [a] : error ? [{ ...a, refused: sentence(error), asked }] : [])));
      taken = taken || !error;
    }
  } catch {
    // still no answer
    return taken;
  } finally {
    sending = false;
  }
}

/** What became of acts: taken or kept where there is no sentence. */
export interface Became {
  why: string;
  /** The field that the server names. */
  field?: string;
  /** True where it only asks whether the gauge really shows this. */
  asked: boolean;
  /** True where they are kept on this device. */
  kept: boolean;
}

/** Keeps acts on this device; where it has no room for them that is said, for then they are nowhere. */
function stays(list: readonly Act[], done: Became): Became {
  try {
    keep([...acts(), ...list]);
    return { ...done, kept: true };
  } catch {
    return {
      ...done,
      why: "The server does not answer, and this device has no room to keep this. Write it on paper with its time, and book it when the server answers again.",
    };
  }
}

/** Does acts in their order, as one: sent at once while the server answers, kept from the first that gets no answer on. A refusal is said and nothing is kept. */
export async function perform(list: readonly Act[]): Promise<Became> {
  const done: Became = { why: "", asked: false, kept: false };
  const [first] = list;
  if (!first) return done;
  if (acts().some((a) => a.attempt === first.attempt)) {
    const became = stays(list, done);
    void sendKept();
    return became;
  }
  for (const [i, act] of list.entries()) {
    try {
      const { error } = await send(act);
      if (error) return { ...done, why: sentence(error), field: problemField(error), asked: (error as { type?: string }).type === "/problems/doubtful" };
    } catch {
      return stays(list.slice(i), done);
    }
  }
  return done;
}

/** Takes an act off this device: it was not so, or it is booked otherwise. */
export function dropAct(id: string) {
  keep(acts().filter((a) => a.id !== id));
}

/** Sends an act that was refused once more; `sure` where the gauge really shows what is doubted. */
export async function sendAgain(id: string, sure = false): Promise<boolean> {
  const anew = (a: Act): Act => {
    const { refused: _, asked: __, ...rest } = a;
    if (!sure || rest.does.is !== "readings") return rest;
    return { ...rest, does: { is: "readings", body: { readings: rest.does.body.readings.map((r) => ({ ...r, sure: true })) } } };
  };
  keep(acts().map((a) => (a.id === id ? anew(a) : a)));
  return sendKept();
}

/** True where an act of this kind waits here already. */
export const waits = (attempt: string, kind: Schema["EventKind"]) => acts().some((a) => a.attempt === attempt && a.does.is === "event" && a.does.body.kind === kind);

/** What is kept of a test, as it changes. */
export function useOutbox(attempt: string | undefined, onSent: () => void): readonly Act[] {
  const all = useSyncExternalStore(
    (hear) => {
      hearers.add(hear);
      window.addEventListener("storage", hear);
      return () => {
        hearers.delete(hear);
        window.removeEventListener("storage", hear);
      };
    },
    acts,
    () => NONE,
  );
  const mine = all.filter((a) => a.attempt === attempt);
  const waiting = mine.some((a) => !a.refused);
  useEffect(() => {
    if (!waiting) return;
    const again = () => void sendKept().then((taken) => taken && onSent());
    const timer = setInterval(again, EVERY_MS);
    window.addEventListener("online", again);
    return () => {
      clearInterval(timer);
      window.removeEventListener("online", again);
    };
  }, [waiting, onSent]);
  return mine;
}
