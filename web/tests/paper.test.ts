import { expect, it } from "vitest";
import { siteNow } from "../src/api/clock";
import { EMPTY_ROW, isTable, momentOfRow, objectionsTo, pasted } from "../src/booking/paper";

const row = (time: string, pressure = "", temperature = "") => ({ time, pressure, temperature });

it("puts a table in at a cell, down and to the right", () => {
  const copied = "22:00\t26,01\t15\r\n22:15\t26,00\t15\r\n";
  expect(isTable(copied)).toBe(true);
  expect(isTable("26,01")).toBe(false);
  expect(pasted([{ ...EMPTY_ROW }], 0, "time", copied)).toEqual([row("22:00", "26,01", "15"), row("22:15", "26,00", "15")]);
  // one column of figures beside times that stand there already
  expect(pasted([row("22:00"), row("22:15")], 0, "pressure", "26.01\n26.00")).toEqual([row("22:00", "26.01"), row("22:15", "26.00")]);
  // a table with semicolons, and more columns than there are
  expect(pasted([], 0, "pressure", "26.01;15;dry")).toEqual([row("", "26.01", "15")]);
});

it("has a column for each further gauge", () => {
  const columns = ["time", "pressure", "temperature", "PG-2"];
  const [first] = pasted([], 0, "time", "22:00\t26.0\t15\t377", columns);
  expect(first).toEqual({ ...row("22:00", "26.0", "15"), "PG-2": "377" });
  // one that was read by itself is a reading
  expect(objectionsTo([{ ...row("22:10"), "PG-2": "376" }], "").size).toBe(0);
});

it("takes the day of the sheet, a line's own, or the last time that it was so late", () => {
  expect(momentOfRow(row("09:12"), "2026-05-30").at).toBe("2026-05-30T09:12:00.000Z");
  expect(momentOfRow(row("2026-05-31 00:10"), "2026-05-30").at).toBe("2026-05-31T00:10:00.000Z");
  const ago = siteNow() - Date.parse(momentOfRow(row("23:50"), "").at ?? "");
  expect(ago).toBeGreaterThan(-180_000);
  expect(ago).toBeLessThan(24 * 3600_000);
});

it("says everything that is wrong at once, each at its line", () => {
  const against = objectionsTo([row("", "26.01"), row("25:00", "26"), row("22:00", "26"), row("", "", ""), row("22:00", "26"), row("22:30")], "");
  expect([...against.keys()]).toEqual([0, 1, 4, 5]);
  // an empty time on paper is missing; it is never now
  expect(against.get(0)).toContain("When was it read?");
  expect(against.get(4)).toBe("The same time stands in line 3.");
  expect(objectionsTo([row("22:00", "26"), { ...EMPTY_ROW }], "").size).toBe(0);
});
