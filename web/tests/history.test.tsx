import { describe, expect, it } from "vitest";
import { differences } from "../src/history";

describe("what changed", () => {
  it("is told field by field, and nothing where nothing did", () => {
    expect(differences({ tag: "SS-4", set_for_test: true }, { tag: "SS-4", set_for_test: false })).toEqual(["set for test: true → false"]);
    expect(differences({ a: { b: [1, 2] } }, { a: { b: [1, 3] } })).toEqual(["a, b, 1: 2 → 3"]);
    expect(differences({ certificate: "C-1" }, { certificate: "C-1" })).toEqual([]);
    expect(differences(null, { tag: "PG-1" })).toEqual(["entered"]);
    expect(differences({ note: "" }, { note: "x" })).toEqual(["note: nothing → x"]);
  });
});
