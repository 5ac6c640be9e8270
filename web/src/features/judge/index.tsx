import { api } from "../../api/client";
import { useAttempt, usePack } from "../../api/pack";
import { OutcomeWord, outcomeOf, ThreeLines } from "../../judgement";
import { HoldChart } from "../../pictures/hold-chart";
import { Residuals } from "../../pictures/residuals";
import { Heading, Lead, LinkButton, Note, Page, Section } from "../../ui";
import { Finding } from "./finding";
import { RecordRead } from "./record-read";
import { Claims } from "./claims";
import { Debrief } from "./debrief";
import { Decide } from "./decide";
import { Decisions } from "../../registers/decisions";
import { useFigures } from "../../units";

export function Judge() {
  const pack = usePack();
  const attempt = useAttempt();
  const show = useFigures(pack);
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
  return (
    <Page>
      <Heading>
        By the basis: <OutcomeWord of={outcomeOf(j)} />.
      </Heading>
      {pack.plan.run === "practice" && attempt.over ? <Debrief attempt={attempt} /> : null}
      <ThreeLines judgement={j} headed />
      <Decide attempt={attempt} />
      {pack.decisions.length || pack.undecided.length || (attempt.over && outcomeOf(j) !== "meets") ? <Decisions attempt={attempt.number} /> : null}
      {j.lines ? <Lead>{j.sentence}</Lead> : null}
      {hold.data ? <HoldChart view={hold.data} judgement={j} show={show} divisionPa={pack.gauge.division_pa} whole={false} /> : null}
      <Residuals found={j.found} show={show} divisionPa={pack.gauge.division_pa} startedAt={attempt.released_at} />
      <div className="grid items-start gap-6 xl:grid-cols-2">
        <div className="grid gap-6">
          <Section title="Finding: what the readings show" aside="statistics">
            <Finding judgement={j} show={show} gas={pack.derived?.medium !== "liquid"} />
          </Section>
          <RecordRead attempt={attempt} view={hold.data} defects={j.found.defects} />
        </div>
        <Section title="Rule by rule" aside="what is asked, and what was held">
          {attempt.by_other_rules ? (
            <p className="m-0 mb-2 text-sm text-soft">Sealed by the rules of version {j.rules_version}: what they say stands word for word, in the units of that day.</p>
          ) : null}
          <div data-published={attempt.by_other_rules ? true : undefined}>
            <Claims judgement={j} />
          </div>
        </Section>
      </div>
      <p className="m-0 text-xs text-soft">
        Rules version {j.rules_version}. The adopted code, the local law and a licensed or appointed person decide; this tool computes and records.
      </p>
    </Page>
  );
}
