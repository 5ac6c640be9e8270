/** The installation's clock, as the server tells it. Everything that is booked goes by it, whatever the clock of this device is set to. */
let origin = Date.now();
let steady = performance.now();
let device = Date.now();
let speed = 1;

/** A device that slept counts on only by its own clock. */
const ASLEEP_MS = 5000;

/** Sets the clock by what the server says it is. */
export function setClock(serverNow: string, rate: number) {
  const now = Date.parse(serverNow);
  if (Number.isNaN(now)) return;
  origin = now;
  steady = performance.now();
  device = Date.now();
  speed = rate;
}

/** Now, in milliseconds since 1970: what the server said last, and what has passed since by a count that nobody sets. */
export function siteNow(): number {
  const counted = performance.now() - steady;
  const shown = Date.now() - device;
  return origin + (shown > counted + ASLEEP_MS ? shown : counted) * speed;
}

/** How many times faster than the real clock. */
export function clockRate(): number {
  return speed;
}
