import { useState } from "react";
import { api, type Schema } from "../../api/client";
import { useAttempt, usePack } from "../../api/pack";
import { EventButtons, LeakDialog, LoggerImport, ReadingForm } from "../../booking";
import { HoldChart } from "../../pictures/hold-chart";
import { Button, Heading, Lead, LinkButton, Note, Page, Section, useKey } from "../../ui";
import { decimalsFor, figure, SYMBOL, useUnit } from "../../units/pressure";

const KIND_WORDS: Record<Schema["RunEventKind"], string> = {
  filled: "filled and vented",
  step_reached: "step reached",
  pump_off: "pump off and disconnected",
  look_done: "look done",
  leak_seen: "leak seen",
  repump: "repumped",
  bleed: "bled",
  hold_ended: "hold ended",
  released: "pressure released",
  vent_opened: "high vent opened",
  drained: "drained",
  pump_started: "pump started",
  noted: "noted",
};

export function Hold() {
  const pack = usePack();
  const attempt = useAttempt();
  const { unit } = useUnit(pack.unit);
  const [leak, setLeak] = useState(false);
  const [whole, setWhole] = useState(false);
  const hold = api.useQuery(
    "get",
    "/api/v1/attempts/{attempt}/hold",
    { params: { path: { attempt: attempt?.id ?? "" } } },
    { enabled: Boolean(attempt), refetchInterval: 10_000 },
  );
  const holding = attempt && !attempt.over && attempt.events.some((e) => e.kind === "pump_off") && !attempt.events.some((e) => e.kind === "hold_ended");
  useKey("l", () => setLeak(true), Boolean(holding && pack.may.book));
  if (!attempt)
    return (
      <Page>
        <Heading>Nothing is held yet.</Heading>
        <Note kind="plain">
          The hold begins when the pump is booked as off. <LinkButton to={`/tests/${pack.id}/ready`}>See what stops it</LinkButton>
        </Note>
      </Page>
    );
  const judgement = attempt.judgement;
  const started = attempt.hold_start_s != null;
  const [say, ...more] = judgement ? judgement.sentence.split(/(?<=\.) (?=Left over|Cooling|Warming|No |Temperature|The )/) : [];
  return (
    <Page>
      <Heading>{judgement ? [say, more[0]?.match(/^(Cooling|Warming)/) ? more.shift() : ""].join(" ") : started ? "Holding." : attempt.instruction}</Heading>
      <Lead>{judgement ? more.join(" ") : "The hold's clock starts when the pump is booked as off."}</Lead>
      {holding ? <p className="m-0 font-semibold text-water">{attempt.instruction}</p> : null}
      {hold.data ? (
        <div className="grid gap-1">
          <div className="flex justify-end">
            <button type="button" className="border-0 bg-transparent p-0 text-sm text-water underline" onClick={() => setWhole(!whole)}>
              {whole ? "zoom to the hold" : "show the whole run"}
            </button>
          </div>
          <HoldChart view={hold.data} judgement={judgement} unit={unit} divisionPa={pack.gauge.division_pa} whole={whole || !started} />
        </div>
      ) : null}
      {holding && pack.may.book ? (
        <div className="grid gap-3">
          <div className="flex flex-wrap items-end gap-3">
            <EventButtons
              attempt={attempt.id}
              events={[
                { kind: "look_done", label: "Every joint looked at", main: true },
                { kind: "repump", label: "Repumped", asks: "Repumped? The hold's clock starts again." },
                { kind: "bleed", label: "Bled", asks: "Was water let out? The hold's clock starts again." },
                { kind: "hold_ended", label: "End the hold", asks: "End the hold? Readings after this do not count for it." },
              ]}
            />
            <Button onClick={() => setLeak(true)}>Note a leak (l)</Button>
          </div>
          <Section title="Readings">
            <ReadingForm attempt={attempt.id} gauge={pack.gauge.tag} unit={pack.unit} />
            <LoggerImport attempt={attempt.id} />
          </Section>
          <LeakDialog attempt={attempt.id} open={leak} onClose={() => setLeak(false)} />
        </div>
      ) : null}
      <div className="grid items-start gap-6 xl:grid-cols-2">
        <Section title="What happened">
          {attempt.events.length ? (
            <table className="w-full border-collapse text-sm">
              <thead className="sr-only">
                <tr>
                  <th scope="col">time</th>
                  <th scope="col">what</th>
                  <th scope="col">who</th>
                </tr>
              </thead>
              <tbody>
                {attempt.events.map((e) => (
                  <tr key={e.id} className="border-b border-hair">
                    <td className="num py-1 pr-3">{e.at.slice(11, 16)}</td>
                    <td className={e.kind === "leak_seen" ? "font-semibold text-danger" : ""}>
                      {KIND_WORDS[e.kind]}
                      {e.place ? `, ${e.place.replaceAll("_", " ")}` : ""}
                      {e.note ? <span className="font-normal text-soft">: {e.note}</span> : null}
                    </td>
                    <td className="text-right text-soft">{e.person}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          ) : (
            <p className="m-0 text-sm text-soft">Nothing is booked yet.</p>
          )}
        </Section>
        {hold.data ? <ReadingsTable view={hold.data} unit={unit} division={pack.gauge.division_pa} /> : null}
      </div>
    </Page>
  );
}

/** The chart's figures as a table. */
function ReadingsTable({ view, unit, division }: { view: Schema["HoldView"]; unit: Parameters<typeof figure>[1]; division: number }) {
  const [open, setOpen] = useState(false);
  const d = Math.max(2, decimalsFor(division, unit));
  const temperatures = new Map(view.temperature.map((t) => [t.t_s, t.value]));
  const rows = open ? view.pressure : view.pressure.slice(-8);
  return (
    <Section
      title="Readings as a table"
      aside={
        <button type="button" className="border-0 bg-transparent p-0 text-water underline" onClick={() => setOpen(!open)}>
          {open ? "the last eight" : `all ${view.pressure.length}`}
        </button>
      }
    >
      <table className="w-full border-collapse text-sm">
        <thead>
          <tr className="border-b border-rule text-soft">
            <th scope="col">time</th>
            <th scope="col">{SYMBOL[unit]}</th>
            <th scope="col">°C</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((p) => (
            <tr key={p.t_s} className="border-b border-hair">
              <td className="num py-0.5">{new Date(Date.parse(view.released_at) + p.t_s * 1000).toISOString().slice(11, 19)}</td>
              <td className="num">{figure(p.value, unit, d)}</td>
              <td className="num">{temperatures.get(p.t_s)?.toFixed(2) ?? ""}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Section>
  );
}
