import { api, type Schema } from "../../api/client";
import { useAttempt, usePack } from "../../api/pack";
import { HoldChart } from "../../pictures/hold-chart";
import { Heading, Lead, LinkButton, Note, Page, Rows, Section } from "../../ui";
import { decimalsFor, useUnit, withUnit } from "../../units/pressure";

const VERDICT: Record<Schema["Verdict"], { word: string; cls: string; mark: string }> = {
  pass: { word: "pass", cls: "text-water", mark: "✓" },
  fail: { word: "fail", cls: "text-danger", mark: "✗" },
  not_shown: { word: "not shown", cls: "text-limit", mark: "?" },
};
const FINDING: Record<Schema["Finding"], string> = { leak_shown: "a leak is shown", tight_to: "no leak shown", not_shown: "the record supports no finding" };

/** A leak rate in the unit that suits it. */
function flow(m3PerS: number): string {
  const l = m3PerS * 3.6e6;
  const text = Math.abs(l) >= 0.1 ? `${Number(l.toPrecision(2))}\u00a0L/h` : `${Number((l * 1e3).toPrecision(2))}\u00a0mL/h`;
  return text.replace("-", "−");
}

export function Judge() {
  const pack = usePack();
  const attempt = useAttempt();
  const { unit } = useUnit(pack.unit);
  const hold = api.useQuery("get", "/api/v1/attempts/{attempt}/hold", { params: { path: { attempt: attempt?.id ?? "" } } }, { enabled: Boolean(attempt) });
  const j = attempt?.judgement;
  if (!attempt || !j)
    return (
      <Page>
        <Heading>There is no hold to judge yet.</Heading>
        <Note kind="plain">
          The judgement follows the readings of the hold. <LinkButton to={`/tests/${pack.id}/hold`}>Go to the hold</LinkButton>
        </Note>
      </Page>
    );
  const v = VERDICT[j.verdict];
  const d = Math.max(2, decimalsFor(pack.gauge.division_pa, unit));
  const leak = j.found.leak;
  return (
    <Page>
      <Heading>
        <span className={v.cls}>
          <span aria-hidden>{v.mark} </span>
          {v.word.charAt(0).toUpperCase() + v.word.slice(1)}:
        </span>{" "}
        {FINDING[j.found.finding]}.
      </Heading>
      <Lead>{j.sentence}</Lead>
      {hold.data ? <HoldChart view={hold.data} judgement={j} unit={unit} divisionPa={pack.gauge.division_pa} whole={false} /> : null}
      <div className="grid items-start gap-6 xl:grid-cols-2">
        <Section title="Finding: what the readings show" aside="statistics">
          <dl className="m-0 text-sm">
            {j.found.reasons.map((r) => (
              <Fact key={r} term="not shown because" text={r} />
            ))}
            {j.found.explained_pa ? (
              <Fact term="temperature explains" text={`${withUnit(j.found.explained_pa.value, unit, d)} ± ${withUnit(j.found.explained_pa.half_width_95, unit, d)}`} />
            ) : null}
            {j.found.left_pa ? (
              <Fact term="left over" text={`${withUnit(j.found.left_pa.value, unit, d)} ± ${withUnit(j.found.left_pa.half_width_95, unit, d)}`} />
            ) : null}
            {leak ? (
              <>
                <Fact term="mean leak, 95 %" text={`${flow(leak.mean_m3_per_s)}, between ${flow(leak.lo_m3_per_s)} and ${flow(leak.hi_m3_per_s)}`} />
                <Fact term="tight to, 99.9 %" text={flow(leak.upper_999_m3_per_s)} />
                <Fact term="least leak it could show" text={flow(leak.detection_limit_m3_per_s)} />
                {j.found.finding === "leak_shown" ? <Fact term="as one round hole" text={`${Number((leak.equivalent_hole_m * 1e6).toPrecision(2))}\u00a0µm`} /> : null}
              </>
            ) : null}
            {j.found.noise_pa != null ? (
              <Fact
                term="noise of the readings"
                text={`${withUnit(j.found.noise_pa, unit, d + 1)}, neighbours correlated ${(j.found.noise_correlation ?? 0).toFixed(2)}`}
              />
            ) : null}
          </dl>
        </Section>
        <Section title="Verdict: what the rules make of it" aside="rules of the basis">
          <div className="grid gap-4">
            {j.verdicts.map((c) => (
              <ClaimTable key={c.claim} claim={c} />
            ))}
          </div>
        </Section>
      </div>
      <p className="m-0 text-xs text-soft">
        Rules version {j.rules_version}. The adopted code, the local law and a licensed or appointed person decide; this tool computes and records.
      </p>
    </Page>
  );
}

function Fact({ term, text }: { term: string; text: string }) {
  return (
    <div className="grid grid-cols-[11rem_1fr] gap-3 border-b border-hair py-1.5">
      <dt className="text-soft">{term}</dt>
      <dd className="m-0">{text}</dd>
    </div>
  );
}

function ClaimTable({ claim }: { claim: Schema["ClaimVerdict"] }) {
  const v = VERDICT[claim.verdict];
  return (
    <div>
      <p className="m-0 mb-1 font-semibold">
        {claim.claim === "strength" ? "Strength" : "Tightness"}:{" "}
        {claim.claimed ? <span className={v.cls}>{v.word}</span> : <span className="font-normal text-soft">not claimed, observed only</span>}
      </p>
      <Rows columns={["result", "what", "margin", "rule"]}>
        {claim.rules.map((r) => (
          <tr key={r.rule} className="border-b border-hair align-top">
            <td className={`w-20 py-1 pr-2 ${VERDICT[r.result].cls}`}>{VERDICT[r.result].word}</td>
            <td className="pr-2">
              {r.sentence}
              <span className="block text-xs text-soft">
                {r.rule}, {r.source}
              </span>
            </td>
            <td className="num text-right text-soft">{r.margin ? `margin ${r.margin}` : ""}</td>
          </tr>
        ))}
      </Rows>
    </div>
  );
}
