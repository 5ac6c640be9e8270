import { expect, test } from "vitest";
import { instant } from "../src/booking/clock";

test("a time of day is today's, or yesterday's when that lies ahead", () => {
  const ahead = new Date(Date.now() + 3_600_000).toISOString();
  const read = instant(ahead.slice(11, 16));
  expect(Date.parse(read ?? "")).toBeLessThanOrEqual(Date.now() + 120_000);
  expect(read?.slice(11, 16)).toBe(ahead.slice(11, 16));
});

test("a date stands before it where the day matters", () => {
  expect(instant("2026-06-01 09:12")).toBe("2026-06-01T09:12:00.000Z");
  expect(instant("2026-06-01T09:12:30")).toBe("2026-06-01T09:12:30.000Z");
});

test("what is no time is not guessed", () => {
  for (const text of ["nine", "25:00", "09:61", "9", "2026-13-41 09:00"]) expect(instant(text)).toBeNull();
});
