import { describe, expect, it } from "vitest";
import type { Schema } from "../src/api/client";
import { nextOf } from "../src/app/next-bar";

type Step = Schema["SpineStep"];
const step = (name: string, state: Step["state"], words = "") => ({ step: name, state, words }) as Step;

describe("the one next thing of a step", () => {
  const day = [
    step("prove", "done"),
    step("derive", "done"),
    step("bound", "collapsed"),
    step("ready", "owes", "2 gates shut"),
    step("fill", "waiting"),
    step("raise", "waiting"),
  ];

  it("is here where something is owed here, and names the step after it", () => {
    const next = nextOf(day, "ready");
    expect(next.here).toBe("2 gates shut");
    expect(next.to?.step).toBe("fill");
    expect(next.later).toBe(true);
  });

  it("is where something is owed, from every other step; a step that is not needed is passed over", () => {
    for (const here of ["prove", "derive", "bound", "fill"]) {
      expect(nextOf(day, here).to?.step, here).toBe("ready");
      expect(nextOf(day, here).later, here).toBe(false);
    }
  });

  it("is what is done now before anything that is owed earlier", () => {
    const under = [step("prove", "owes", "say why"), step("raise", "now", "2 of 4 steps"), step("hold", "waiting")];
    expect(nextOf(under, "hold").to?.step).toBe("raise");
    expect(nextOf(under, "raise").here).toBe("2 of 4 steps");
  });

  it("is nothing at the end of what is done", () => {
    const over = [step("prove", "done"), step("sign", "done")];
    expect(nextOf(over, "sign").to).toBeUndefined();
    expect(nextOf(over, "prove").to).toBeUndefined();
    expect(nextOf([...over, step("file", "waiting")], "prove").to?.step).toBe("file");
  });
});
