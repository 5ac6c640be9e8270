import { describe, expect, it } from "vitest";
import { decimalsFor, figure, inUnit, roundTo, toPa, UNITS, withUnit } from "../src/units/pressure";

describe("pressure units", () => {
  it("round-trip in every unit", () => {
    for (const unit of UNITS) for (const pa of [1, 1e5, 2.57e6, 4.2e7]) expect(inUnit(toPa(inUnit(pa, unit), unit), unit)).toBeCloseTo(inUnit(pa, unit), 12);
  });
  // NIST SP 811 (2008), B.8
  it("agree with the published factors", () => {
    expect(toPa(1, "psi")).toBeCloseTo(6894.757, 3);
    expect(toPa(1, "kg_cm2")).toBe(98066.5);
  });
  it("show the digits that the gauge can show", () => {
    expect(decimalsFor(1e4, "bar")).toBe(1);
    expect(decimalsFor(1e3, "bar")).toBe(2);
    expect(decimalsFor(5e4, "bar")).toBe(1);
    expect(decimalsFor(1e3, "kpa")).toBe(0);
    expect(decimalsFor(1e3, "mpa")).toBe(3);
  });
  it("round bounds the safe way", () => {
    expect(figure(2_569_357, "bar", 1, "up")).toBe("25.7");
    expect(figure(2_998_041, "bar", 2, "down")).toBe("29.98");
    expect(roundTo(25.7, 1, "up")).toBe(25.7);
    expect(roundTo(25.7, 1, "down")).toBe(25.7);
  });
  it("keep the unit on the line and the minus a minus", () => {
    expect(withUnit(-50_000, "bar", 1)).toBe("−0.5\u00a0bar");
    expect(figure(-1, "bar", 1)).toBe("0.0");
  });
});
