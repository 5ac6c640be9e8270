import type { Schema } from "../../api/client";
import { word } from "../../api/words";
import { Rows } from "../../ui";
import { WhyRule } from "../../why";
import { VERDICT } from "./verdict";

type Result = Schema["RuleResult"];

/** What every rule says, with the margin to its limit: first what counts for both claims, then what is of one alone. */
export function Claims({ judgement }: { judgement: Schema["Judgement"] }) {
  const [first, second] = judgement.verdicts;
  const same = (a: Result) => Boolean(second?.rules.some((b) => b.rule === a.rule && b.sentence === a.sentence && b.result === a.result));
  const both = first ? first.rules.filter(same) : [];
  const own = (c: Schema["ClaimVerdict"]) => c.rules.filter((r) => !both.some((b) => b.rule === r.rule && b.sentence === r.sentence));
  return (
    <div className="grid gap-5">
      {judgement.verdicts.map((c) => (
        <div key={c.claim}>
          <p className="m-0 mb-1 font-semibold">
            {word("claim", c.claim)}:{" "}
            {c.claimed ? (
              <span className={VERDICT[c.verdict].cls}>{word("verdict", c.verdict)}</span>
            ) : (
              <span className="font-normal text-soft">not claimed, observed only</span>
            )}
          </p>
          {own(c).length ? <RuleTable rules={own(c)} /> : <p className="m-0 text-sm text-soft">by what counts for both</p>}
        </div>
      ))}
      {both.length ? (
        <div>
          <p className="m-0 mb-1 font-semibold">For both</p>
          <RuleTable rules={both} />
        </div>
      ) : null}
    </div>
  );
}

function RuleTable({ rules }: { rules: Result[] }) {
  return (
    <Rows columns={["result", "what", "margin", "why"]}>
      {rules.map((r) => (
        <tr key={r.rule + r.sentence} className="border-b border-hair align-top">
          <td className={`w-28 py-1 pr-2 ${r.counts === "said" ? "text-soft" : VERDICT[r.result].cls}`}>
            {r.counts === "said" ? null : <span aria-hidden>{VERDICT[r.result].mark} </span>}
            {r.counts === "said" ? word("counts", r.counts) : word("verdict", r.result)}
          </td>
          <td className="py-1 pr-2">
            {r.sentence}
            <span className="block text-xs text-soft">
              {r.rule}
              {r.counts === "project" ? `, ${word("counts", r.counts)}` : ""}
            </span>
          </td>
          <td className="num py-1 pr-2 text-right text-soft">{r.margin}</td>
          <td className="py-1 text-right">
            <WhyRule result={r} />
          </td>
        </tr>
      ))}
    </Rows>
  );
}
