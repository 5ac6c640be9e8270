import { siteNow } from "../api/clock";
import { clockOf, dayOf, isDay, momentsAt, nextDay } from "../api/zone";

/** The project's clock now, HH:MM:SS, as a field shows it. */
export function now(): string {
  return clockOf(siteNow(), true);
}

const WRITTEN = /^(?:(\d{4}-\d{2}-\d{2})[ T])?(\d{1,2}):(\d{2})(?::(\d{2}))?(?: (first|second))?$/;

/** A moment that was typed. */
export interface Read {
  at: string | null;
  /** Why it cannot be read, and what to write. */
  why: string;
}

const HOW = "Write the time as 09:12, or with its day as 2026-06-01 09:12.";

/** What a typed time means: empty is now; a time of day is today's, or yesterday's when that lies ahead; a date may stand before it. */
export function readTime(typed: string): Read {
  const refused = (why: string): Read => ({ at: null, why });
  const text = typed.trim();
  if (text === "") return { at: new Date(siteNow()).toISOString(), why: "" };
  const match = WRITTEN.exec(text);
  if (!match) return refused(HOW);
  const [, day, h = "", m = "", s = "0", which] = match;
  if (Number(h) > 23 || Number(m) > 59 || Number(s) > 59) return refused(HOW);
  if (day && !isDay(day)) return refused(`${day} is no day of the calendar. ${HOW}`);
  const seconds = Number(h) * 3600 + Number(m) * 60 + Number(s);
  const today = dayOf(siteNow());
  let moments = momentsAt(day ?? today, seconds);
  if (!day && !moments.some((at) => at <= siteNow() + 120_000)) moments = momentsAt(nextDay(today, -1), seconds);
  const [first, second] = moments;
  if (first === undefined) return refused(`The clock was put forward over ${h}:${m} that day: it never showed that. Check the time.`);
  if (second === undefined) return which ? refused(`${h}:${m} came only once that day: leave out "${which}".`) : { at: new Date(first).toISOString(), why: "" };
  if (!which) return refused(`The clock was put back that day and showed ${h}:${m} twice: write "${text} first" or "${text} second".`);
  return { at: new Date(which === "first" ? first : second).toISOString(), why: "" };
}

/** The instant that a typed time means; none where it cannot be read. */
export function instant(typed: string): string | null {
  return readTime(typed).at;
}

/** What to do when a typed time cannot be read. */
export function howToWrite(typed: string): string {
  return readTime(typed).why || HOW;
}
