import { describe, expect, it } from "vitest";
import { Figures, inUnit, toPa, UNITS } from "../src/units";

const REST = { temperature: "celsius", length: "metre", volume: "litre" } as const;
const at = (division_pa: number, unit: "bar" | "kpa" | "psi" = "bar") => new Figures({ pressure: unit, ...REST }, { unit: "bar", division_pa });

describe("pressure units", () => {
  it("round-trip in every unit", () => {
    for (const unit of UNITS) for (const pa of [1, 1e5, 2.57e6, 4.2e7]) expect(inUnit(toPa(inUnit(pa, unit), unit), unit)).toBeCloseTo(inUnit(pa, unit), 12);
  });
  // NIST SP 811 (2008), B.8
  it("agree with the published factors", () => {
    expect(toPa(1, "psi")).toBeCloseTo(6894.757, 3);
    expect(toPa(1, "kg_cm2")).toBe(98066.5);
  });
  it("show the digits that the gauge can show, and its half division where it was read so", () => {
    expect(at(25_000).p(2_575_000)).toBe("25.75\u00a0bar");
    expect(at(50_000).p(2_575_000)).toBe("25.75\u00a0bar");
    expect(at(50_000).p(2_570_000)).toBe("25.7\u00a0bar");
    expect(at(10_000, "kpa").n(2_570_000)).toBe("2570");
    expect(at(10_000, "psi").n(2_570_000)).toBe("373");
  });
  it("round bounds the safe way", () => {
    expect(at(10_000).n(2_569_357, "up")).toBe("25.7");
    expect(at(10_000).n(2_998_041, "down")).toBe("29.98");
    expect([at(10_000).n(2_570_000, "up"), at(10_000).n(2_570_000, "down")]).toEqual(["25.7", "25.70"]);
  });
  it("keep the unit on the line and the minus a minus", () => {
    expect(at(10_000).p(-50_000)).toBe("−0.5\u00a0bar");
    expect(at(10_000).n(-1)).toBe("0.0");
  });
});
