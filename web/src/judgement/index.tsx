import type { Schema } from "../api/client";
import { word } from "../api/words";

type Judgement = Schema["Judgement"];
type Outcome = Schema["Outcome"];

/** An outcome as colour and mark; its word is the server's. */
export const OUTCOME: Record<Outcome, { cls: string; mark: string }> = {
  meets: { cls: "text-water", mark: "✓" },
  does_not_meet: { cls: "text-danger", mark: "✗" },
  not_complete: { cls: "text-limit", mark: "?" },
  refused: { cls: "text-danger", mark: "✗" },
};

const BEFORE: Record<Schema["Verdict"], Outcome> = { pass: "meets", fail: "does_not_meet", not_shown: "not_complete" };

/** What the basis makes of it; of a record of before the lines were told apart, what its verdict says. */
export function outcomeOf(j: Judgement): Outcome {
  return j.lines?.by_basis.outcome ?? BEFORE[j.verdict];
}

/** The outcome with its mark, in its colour. */
export function OutcomeWord({ of }: { of: Outcome }) {
  const { cls, mark } = OUTCOME[of];
  return (
    <span className={cls}>
      <span aria-hidden>{mark} </span>
      {word("outcome", of)}
    </span>
  );
}

/** The three answers, in their order: by the basis, about a leak, what would settle it. Under a heading that says the outcome it is not said again. */
export function ThreeLines({ judgement, headed }: { judgement: Judgement; headed?: boolean }) {
  const lines = judgement.lines;
  if (!lines) return <p className="m-0 max-w-[88ch]">{judgement.sentence}</p>;
  const { by_basis, leak, would_settle } = lines;
  const told = by_basis.outcome === "meets" ? [] : by_basis.because;
  const settle = would_settle.filter((s) => !told.includes(s));
  return (
    <dl className="m-0 grid grid-cols-[9rem_1fr] gap-x-4 border-t-2 border-ink max-[700px]:grid-cols-1" data-lines>
      <Line term="By the basis" name="by_basis">
        {headed ? null : (
          <span className="block text-lg font-bold">
            <OutcomeWord of={by_basis.outcome} />
          </span>
        )}
        <span className="block">{by_basis.sentence}</span>
        {told.length ? (
          <ul className="m-0 mt-1 list-disc pl-5">
            {told.map((s) => (
              <li key={s}>{s}</li>
            ))}
          </ul>
        ) : null}
        {by_basis.to_decide ? <span className="mt-1 block font-semibold text-limit">{by_basis.to_decide}</span> : null}
        {by_basis.decided ? <span className="mt-1 block">{by_basis.decided}</span> : null}
      </Line>
      <Line term="About a leak" name="leak">
        <span className={leak.said === "leak_shown" ? "font-semibold text-danger" : leak.said === "tight_to" ? "font-semibold text-water" : ""}>{leak.sentence}</span>
      </Line>
      {settle.length ? (
        <Line term="What would settle it" name="would_settle">
          {settle.map((s) => (
            <span key={s} className="block">
              {s}
            </span>
          ))}
        </Line>
      ) : null}
    </dl>
  );
}

function Line({ term, name, children }: { term: string; name: string; children: React.ReactNode }) {
  return (
    <div className="col-span-2 grid grid-cols-subgrid border-b border-hair py-2 max-[700px]:col-span-1" data-line={name}>
      <dt className="text-sm text-soft">{term}</dt>
      <dd className="m-0 max-w-[88ch]">{children}</dd>
    </div>
  );
}
