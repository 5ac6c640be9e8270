import { siteNow } from "../api/clock";

/** The site's clock now, HH:MM:SS in UTC, as a field shows it. */
export function now(): string {
  return new Date(siteNow()).toISOString().slice(11, 19);
}

/** The instant that a typed time means: empty is now; a time of day is today's, or yesterday's when that lies ahead; a date may stand before it. */
export function instant(typed: string): string | null {
  const text = typed.trim();
  if (text === "") return new Date(siteNow()).toISOString();
  const match = /^(?:(\d{4}-\d{2}-\d{2})[ T])?(\d{1,2}):(\d{2})(?::(\d{2}))?$/.exec(text);
  if (!match) return null;
  const [, day, h = "", m = "", s = "0"] = match;
  if (Number(h) > 23 || Number(m) > 59 || Number(s) > 59) return null;
  const at = day ? new Date(`${day}T00:00:00Z`) : new Date(siteNow());
  if (Number.isNaN(at.getTime())) return null;
  at.setUTCHours(Number(h), Number(m), Number(s), 0);
  if (!day && at.getTime() > siteNow() + 120_000) at.setUTCDate(at.getUTCDate() - 1);
  return at.toISOString();
}

/** What to do when a typed time cannot be read. */
export const HOW_TO_WRITE = "Write the time as 09:12, or with its day as 2026-06-01 09:12.";
