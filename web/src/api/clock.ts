/** The installation's clock. In training it runs faster than the real one, and everything that is booked goes by it. */
let origin = Date.now();
let at = Date.now();
let speed = 1;

/** Sets the clock by what the server says it is. */
export function setClock(serverNow: string, rate: number) {
  const now = Date.parse(serverNow);
  if (Number.isNaN(now)) return;
  origin = now;
  at = Date.now();
  speed = rate;
}

/** Now, in milliseconds since 1970. A real installation trusts the device, whose clock the server checks by refusing what lies ahead. */
export function siteNow(): number {
  return speed === 1 ? Date.now() : origin + (Date.now() - at) * speed;
}

/** How many times faster than the real clock. */
export function clockRate(): number {
  return speed;
}
