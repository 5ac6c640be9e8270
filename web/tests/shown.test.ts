import { expect, test } from "vitest";
import { amount, atGauge, type Dimension, SYMBOL, type Toward, type Unit, type Units } from "../src/units/shown";
import { names, typed } from "../src/units/typed";
import cases from "./units/shown-cases.gen.json";

// one author: the core wrote these, over all dimensions, sets of units, divisions and ways of rounding
test("figures at a gauge are those of the core", () => {
  const all = cases.at_gauge as [Unit, number, Unit, number, Toward, string][];
  expect(all.length).toBeGreaterThan(1000);
  for (const [dial, division, unit, pa, toward, text] of all) {
    expect(atGauge(pa, { unit: dial, division_pa: division }, unit, toward), `${pa} Pa ${toward} of ${division} Pa ${dial} in ${SYMBOL[unit]}`).toBe(text);
  }
});

test("amounts are those of the core", () => {
  const all = cases.amounts as [Units, Dimension, number, boolean, Toward, string][];
  expect(all.length).toBeGreaterThan(3000);
  for (const [units, dimension, value, exact, toward, text] of all) {
    expect(amount(value, dimension, units, exact ? "exact" : "said", toward), `${value} ${dimension} ${toward}`).toBe(text);
  }
});

test("what is typed is understood in every unit, and a bare figure in that of its field", () => {
  const metre = { factor: 1, offset: 0 };
  const cases: [string, Dimension, number][] = [
    ["84 in", "length_m", 2.1336],
    ["2,1", "length_m", 2.1],
    ["0.9 L", "volume_m3", 9e-4],
    ["3 gal", "volume_m3", 0.011356235352],
    ["10 psi", "pressure_difference_pa", 68947.572931683],
    ["200 °F", "temperature_c", 93.33333333],
    ["−5", "temperature_c", -5],
    ["12 gpm", "volume_flow_m3_per_s", 7.5708e-4],
  ];
  for (const [text, dimension, si] of cases) {
    const read = typed(text, dimension, metre).si;
    expect(Math.abs((read ?? Number.NaN) / si - 1), text).toBeLessThan(1e-5);
  }
  expect(typed("50", "temperature_c", { factor: 1.8, offset: 32 }).si).toBeCloseTo(10, 9);
  expect(typed("12 L", "length_m", metre).why).toContain("is no unit for this");
  expect(typed("12,3.4", "length_m", metre).why).toContain("no figure");
  expect(typed("  ", "length_m", metre).si).toBeNull();
  expect([names("2.1 L", "volume_m3"), names("2.1", "volume_m3"), names("2.1 m", "volume_m3")]).toEqual([true, false, false]);
});
