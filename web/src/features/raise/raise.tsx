import { api } from "../../api/client";
import { useAttempt, usePack } from "../../api/pack";
import { EventButtons, LoggerImport, ReadingForm } from "../../booking";
import { ScheduleCurve } from "../../pictures/schedule-curve";
import { Heading, Lead, LinkButton, Note, Page, Section } from "../../ui";
import { decimalsFor, figure, SYMBOL, useUnit, withUnit } from "../../units/pressure";

export function Raise() {
  const pack = usePack();
  const attempt = useAttempt();
  const { unit } = useUnit(pack.unit);
  const d = decimalsFor(pack.gauge.division_pa, unit);
  const hold = api.useQuery(
    "get",
    "/api/v1/attempts/{attempt}/hold",
    { params: { path: { attempt: attempt?.id ?? "" } } },
    { enabled: Boolean(attempt), refetchInterval: 10_000 },
  );
  if (pack.schedule.length === 0)
    return (
      <Page>
        <Heading>No pressure is planned.</Heading>
        <Note kind="plain">
          <LinkButton to={`/tests/${pack.id}/derive`}>Derive it first</LinkButton>
        </Note>
      </Page>
    );
  const reached = attempt?.events.filter((e) => e.kind === "step_reached").length ?? 0;
  const running = attempt && !attempt.over;
  const next = pack.schedule[reached];
  const now = attempt?.last_pressure_pa;
  const fills = attempt?.events.find((e) => e.kind === "filled");
  const start = fills && attempt ? (Date.parse(fills.at) - Date.parse(attempt.released_at)) / 1000 : 0;
  const read = (hold.data?.pressure ?? [])
    .map((p) => ({ t_s: p.t_s - start, value: p.value }))
    .filter((p) => p.t_s >= 0 && p.t_s <= (pack.schedule.at(-1)?.ends_s ?? 0) * 1.5);
  const off = attempt?.events.some((e) => e.kind === "pump_off");
  return (
    <Page>
      <Heading>{running ? attempt.instruction : `Raised in ${pack.schedule.length} steps to ${withUnit(pack.schedule.at(-1)?.target_pa ?? 0, unit, d)}.`}</Heading>
      <Lead>
        {running
          ? "Pressure that stops rising while pumping means a part is giving way, or a leak: stop. Stand clear for the first 10 minutes at pressure."
          : attempt
            ? "This attempt is over; its raise is on the record."
            : "Not released yet: this is the plan."}
      </Lead>
      {running ? (
        <div className="grid grid-cols-[auto_1fr] items-end gap-10">
          <p className="m-0 leading-none">
            {now != null ? (
              <>
                <span className="font-mono text-huge font-semibold">{figure(now, unit, d)}</span>
                <span className="ml-2 text-xl text-soft">{SYMBOL[unit]}</span>
                <span className="mt-1 block text-sm text-soft">{pack.gauge.tag}, last reading</span>
              </>
            ) : (
              <span className="text-lg text-soft">{pack.gauge.tag}: nothing read yet</span>
            )}
          </p>
          <p className="m-0 pb-1 text-lg">
            {next && !off ? (
              <>
                <strong className="text-water">
                  {now != null && next.target_pa > now ? `${withUnit(next.target_pa - now, unit, d)} to go` : `next: ${withUnit(next.target_pa, unit, d)}`}
                </strong>
                <span className="block text-base text-soft">
                  step {next.number} of {pack.schedule.length}
                </span>
              </>
            ) : null}
          </p>
        </div>
      ) : null}
      {running && pack.may.book && !off ? (
        <EventButtons
          attempt={attempt.id}
          size="large"
          events={
            !fills
              ? [{ kind: "filled", label: "Filled, vents closed, looked", main: true }]
              : next
                ? [
                    { kind: "step_reached", label: `${withUnit(next.target_pa, unit, d)} reached`, main: true },
                    { kind: "released", label: "Stop: release pressure", asks: "Was the pressure released, and zero proved in every section?" },
                  ]
                : [{ kind: "pump_off", label: "Pump off, valved off, disconnected", main: true }]
          }
        />
      ) : null}
      {off ? (
        <div>
          <LinkButton to={`/tests/${pack.id}/hold`} kind="main">
            Go to the hold
          </LinkButton>
        </div>
      ) : null}
      <div className="grid items-start gap-6 xl:grid-cols-[3fr_2fr]">
        <Section title="Schedule, with what was read">
          <ScheduleCurve steps={pack.schedule} reached={reached} unit={unit} divisionPa={pack.gauge.division_pa} readings={read} />
        </Section>
        <Section title="Steps">
          <table className="w-full border-collapse text-sm">
            <thead className="sr-only">
              <tr>
                <th scope="col">pressure</th>
                <th scope="col">when</th>
                <th scope="col">what to do</th>
              </tr>
            </thead>
            <tbody>
              {pack.schedule.map((s, i) => (
                <tr key={s.number} className={`border-b border-hair align-baseline ${i === reached && running ? "font-semibold text-water" : ""}`}>
                  <td className="num py-1.5 pr-3 text-base">{withUnit(s.target_pa, unit, d)}</td>
                  <td className="num pr-3 text-soft">{Math.round(s.reached_s / 60)} min</td>
                  <td>{i < reached ? "reached" : s.words}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </Section>
      </div>
      {running && pack.may.book && fills ? (
        <Section title="Readings">
          <ReadingForm attempt={attempt.id} gauge={pack.gauge.tag} unit={pack.unit} />
          <LoggerImport attempt={attempt.id} />
        </Section>
      ) : null}
    </Page>
  );
}
