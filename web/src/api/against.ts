import type { Pack } from "./client";
import { usePack } from "./pack";

interface Against {
  rule: string;
  part?: string | null;
  field: string;
  step: string;
  sentence: string;
}

/** Everything that stops this test: why nothing can be derived, or what stands against what was. */
export function allAgainst(pack: Pack): Against[] {
  const steps = ["agreed_pressure_pa", "basis", "medium", "choices", "on_top_of", "over_test_reason", "owners_fall", "agreed_hold_s", "water_temperature_c"];
  const prove = (field: string) => field.endsWith("_pa") || field.endsWith("design_temperature_c") || steps.some((s) => field.endsWith(s));
  const refusals = pack.refusals.map((r) => ({ ...r, step: !r.part && prove(r.field) ? "prove" : "derive" }));
  return [...refusals, ...(pack.derived?.objections ?? [])];
}

/** The sentence that stands against a field of the plan; nothing where none does. */
export function useAgainst(): (field: string) => string | undefined {
  const all = allAgainst(usePack()).filter((o) => !o.part);
  return (field) => all.find((o) => o.field === field || o.field.endsWith(`.${field}`))?.sentence;
}
