import { useCallback, useEffect, useRef, useState } from "react";

/** What was typed and is not stored yet: it stays on this device, and whoever leaves is asked first. */
const open = new Map<symbol, string>();

/** What is typed and not saved on the page that shows, each in a word or two. */
export function unsaved(): string[] {
  const unread = document.querySelector("main [data-unread]") ? ["a figure that cannot be read"] : [];
  return [...new Set([...open.values(), ...unread])];
}

let person = "";
/** Whose typing is kept: on a tablet that goes from hand to hand everybody finds their own. */
export function setTyper(name: string) {
  person = name;
}
/** Who types here. */
export const typer = () => person;

const BEGINS = "typed:";
/** After this nobody comes back for it, ms. */
const KEPT_FOR = 14 * 24 * 3600_000;
/** A moment after the last key, ms. */
const AFTER = 300;
/** What is kept has a number, so that an older one is known for what it is. */
const FORMAT = 1;

interface Kept<T> {
  format: number;
  at: number;
  value: T;
}

const place = (key: string) => `${BEGINS}${person}:${key}`;

/** What this person typed here before and did not save. */
export function keptTyping<T>(key: string): T | undefined {
  try {
    const kept = JSON.parse(localStorage.getItem(place(key)) ?? "null") as Kept<T> | null;
    return kept?.format === FORMAT && Date.now() - kept.at < KEPT_FOR ? kept.value : undefined;
  } catch {
    return undefined;
  }
}

/** Forgets what nobody came back for. */
export function sweepTyping() {
  for (const key of Object.keys(localStorage).filter((k) => k.startsWith(BEGINS))) {
    try {
      const kept = JSON.parse(localStorage.getItem(key) ?? "null") as Kept<unknown> | null;
      if (!kept || Date.now() - kept.at > KEPT_FOR) localStorage.removeItem(key);
    } catch {
      localStorage.removeItem(key);
    }
  }
}

interface Typing<T> {
  /** Where it is kept, on this device. */
  key: string;
  /** What it is, as somebody is asked about it: "the plan". */
  what: string;
  /** Made when it is kept, not with every key. */
  value: () => T;
  dirty: boolean;
}

/** Keeps what is typed while it is not saved. `done` forgets it at once, so that whoever saved and goes on is not asked. */
export function useTyping<T>({ key, what, value, dirty }: Typing<T>) {
  const mark = useRef(Symbol(what));
  const latest = useRef({ key, value });
  const kept = useRef("");
  const clean = useRef(false);
  const later = useRef<ReturnType<typeof setTimeout>>(undefined);
  const [lost, setLost] = useState(false);
  const forget = useCallback(() => {
    open.delete(mark.current);
    clearTimeout(later.current);
    later.current = undefined;
    kept.current = "";
    localStorage.removeItem(place(latest.current.key));
  }, []);
  // what is saved is not typed any more, though the form shows it until the page is gone
  const saved = useRef(false);
  const done = useCallback(() => {
    saved.current = true;
    forget();
  }, [forget]);
  const write = useCallback(() => {
    later.current = undefined;
    // whoever saved in between has nothing to keep
    if (!open.has(mark.current)) return;
    const text = JSON.stringify(latest.current.value());
    if (text === kept.current) return;
    try {
      localStorage.setItem(place(latest.current.key), `{"format":${FORMAT},"at":${Date.now()},"value":${text}}`);
      kept.current = text;
      setLost(false);
    } catch {
      // there is no room for it
      localStorage.removeItem(place(latest.current.key));
      setLost(true);
    }
  }, []);
  useEffect(() => {
    if (latest.current.key !== key) forget();
    latest.current = { key, value };
    if (!dirty) saved.current = false;
    if (dirty && !saved.current) {
      open.set(mark.current, what);
      later.current ??= setTimeout(write, AFTER);
    } else if (!clean.current) forget();
    clean.current = !dirty;
  });
  useEffect(() => {
    const of = mark.current;
    window.addEventListener("pagehide", write);
    return () => {
      window.removeEventListener("pagehide", write);
      clearTimeout(later.current);
      write();
      open.delete(of);
    };
  }, [write]);
  return { done, words: !dirty ? "" : lost ? "not saved yet, and too much to keep on this device" : "not saved yet; kept on this device" };
}

/** What is typed into a few fields of a dialog, kept until it is booked: a dialog that was shut, and a page that was loaded again, still have it.
 * Booked with what was sent, only that goes; what was typed meanwhile stays. */
export function useKept<T extends object>(key: string, what: string, empty: T): [T, (change: Partial<T>) => void, (sent?: T) => void] {
  const [value, setValue] = useState<T>(() => ({ ...empty, ...keptTyping<Partial<T>>(key) }));
  const dirty = Object.keys(empty).some((name) => value[name as keyof T] !== empty[name as keyof T]);
  const { done } = useTyping({ key, what, value: () => value, dirty });
  const latest = useRef(value);
  latest.current = value;
  const booked = (sent = latest.current) => {
    const names = Object.keys(empty) as (keyof T)[];
    if (names.every((name) => latest.current[name] === sent[name])) done();
    setValue((was) => ({ ...was, ...Object.fromEntries(names.filter((name) => was[name] === sent[name]).map((name) => [name, empty[name]])) }));
  };
  return [value, (change) => setValue((was) => ({ ...was, ...change })), booked];
}
