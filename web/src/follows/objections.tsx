import { Link } from "@tanstack/react-router";
import type { Pack } from "../api/client";
import { usePack } from "../api/pack";
import { Note } from "../ui";

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

const NAMES: Record<string, string> = { prove: "Prove", derive: "Derive", bound: "Bound", ready: "Ready", fill: "Fill", raise: "Raise", hold: "Hold", restore: "Restore" };

/** All that stands against the test at once, each with the part, the column or field, and the step where it is mended. */
export function Objections({ here, except = "" }: { here: string; except?: string }) {
  const pack = usePack();
  const all = allAgainst(pack).filter((o) => o.sentence !== except);
  if (all.length === 0) return null;
  return (
    <ul className="m-0 grid list-none gap-2 p-0" aria-label="What stops this test" data-objections={all.length}>
      {all.map((o) => (
        <li key={`${o.rule} ${o.part ?? ""} ${o.field} ${o.sentence}`} data-rule={o.rule}>
          <Note kind="stop" word={o.part ? `${o.part}:` : "Stops:"}>
            {o.sentence}{" "}
            <span className="whitespace-nowrap text-soft">
              {o.step !== here && NAMES[o.step] ? (
                <>
                  Mend it in{" "}
                  <Link to={`/tests/${pack.id}/${o.step}` as "/"} className="underline">
                    {NAMES[o.step]}
                  </Link>
                  .{" "}
                </>
              ) : null}
              <span className="text-xs">{o.rule}</span>
            </span>
          </Note>
        </li>
      ))}
    </ul>
  );
}
