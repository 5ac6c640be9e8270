/** The project's zone: every time on a screen is that of its clock, whatever the zone of this device is. */
let name = "UTC";
let formats = make("UTC");

function make(zone: string) {
  const options = { timeZone: zone, hourCycle: "h23", year: "numeric", month: "2-digit", day: "2-digit", hour: "2-digit", minute: "2-digit", second: "2-digit" } as const;
  return new Intl.DateTimeFormat("en-GB", options);
}

/** Sets the zone by what the server says it is; one that this browser does not know is left as universal time, and named so. */
export function setZone(zone: string) {
  if (zone === name) return;
  try {
    formats = make(zone);
    name = zone;
  } catch {
    formats = make("UTC");
    name = "UTC";
  }
}

/** Its name, once on each screen. */
export function zoneName(): string {
  return name;
}

type At = string | number;
// a sum of seconds may fall short of the second by less than anybody measured
const ms = (at: At) => (typeof at === "number" ? Math.round(at) : Date.parse(at));

const NOTHING = { year: "", month: "", day: "", hour: "", minute: "", second: "" };
/** Day and clock in pieces; of what is no time, empty ones. */
function parts(at: At): Record<string, string> {
  if (Number.isNaN(ms(at))) return NOTHING;
  return Object.fromEntries(formats.formatToParts(ms(at)).map((p) => [p.type, p.value]));
}

/** The day there, 2026-03-01. */
export function dayOf(at: At): string {
  const p = parts(at);
  return `${p.year}-${p.month}-${p.day}`;
}

/** What its clock shows, 14:05, or to the second. */
export function clockOf(at: At, exact = false): string {
  const p = parts(at);
  if (!p.hour) return "";
  return exact ? `${p.hour}:${p.minute}:${p.second}` : `${p.hour}:${p.minute}`;
}

/** Day and clock. */
export function momentOf(at: At, exact = false): string {
  return `${dayOf(at)} ${clockOf(at, exact)}`;
}

/** How far its clock is ahead of universal time, s. */
export function aheadOf(at: At): number {
  const p = parts(at);
  const shown = Date.UTC(Number(p.year), Number(p.month) - 1, Number(p.day), Number(p.hour), Number(p.minute), Number(p.second));
  return (shown - Math.floor(ms(at) / 1000) * 1000) / 1000;
}

/** Seconds of the day by its clock. */
export function secondsOfDay(at: At): number {
  const p = parts(at);
  return Number(p.hour) * 3600 + Number(p.minute) * 60 + Number(p.second);
}

/** True for a day that the calendar has. */
export function isDay(text: string): boolean {
  const match = /^(\d{4})-(\d{2})-(\d{2})$/.exec(text);
  if (!match) return false;
  const [, y, m, d] = match.map(Number);
  const at = new Date(Date.UTC(y ?? 0, (m ?? 0) - 1, d ?? 0));
  return at.getUTCFullYear() === y && at.getUTCMonth() + 1 === m && at.getUTCDate() === d;
}

/** The day before or after. */
export function nextDay(day: string, by: number): string {
  return new Date(Date.parse(`${day}T00:00:00Z`) + by * 86_400_000).toISOString().slice(0, 10);
}

/** Every moment at which its clock shows this: none in an hour that is left out, two in one that comes twice. */
export function momentsAt(day: string, seconds: number): number[] {
  const shown = Date.parse(`${day}T00:00:00Z`) + seconds * 1000;
  const offsets = new Set([-86_400_000, 0, 86_400_000].map((by) => aheadOf(shown + by)));
  const found = [...offsets].map((ahead) => shown - ahead * 1000).filter((at) => aheadOf(at) * 1000 + at === shown);
  return found.sort((a, b) => a - b);
}

/** When its clock is put forward or back between two moments, with how far, s: by halving, so that it is found to the second. */
export function changes(from: number, to: number): { at: number; by_s: number }[] {
  const found: { at: number; by_s: number }[] = [];
  for (let a = from; a < to; a += 6 * 3_600_000) {
    let [low, high] = [a, Math.min(a + 6 * 3_600_000, to)];
    const by_s = aheadOf(high) - aheadOf(low);
    if (by_s === 0) continue;
    while (high - low > 1000) {
      const middle = Math.floor((low + high) / 2000) * 1000;
      if (aheadOf(middle) === aheadOf(low)) low = middle;
      else high = middle;
    }
    found.push({ at: high, by_s });
  }
  return found;
}
