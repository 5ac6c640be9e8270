import { useState } from "react";
import { api, type Attempt } from "../../api/client";
import { useAttempt, usePack } from "../../api/pack";
import { emptyWindow } from "../../api/window";
import { FromTheFile, LoggerImport, ReadingForm } from "../../booking";
import { Follows } from "../../follows";
import { ago, type LiveView, notNow, useLive } from "../../live";
import { PumpingCurve } from "../../pictures/pumping-curve";
import { ScheduleCurve } from "../../pictures/schedule-curve";
import { Heading, Lead, LinkButton, Note, NotNow, Page, Section } from "../../ui";
import { ActionBar } from "./action-bar";
import { type Figures, useFigures } from "../../units";
import { clockOf } from "../../api/zone";

export function Raise() {
  const pack = usePack();
  const attempt = useAttempt();
  const show = useFigures(pack);
  const { view } = useLive();
  const empty = pack.derived ? emptyWindow(pack.derived) : "";
  if (pack.schedule.length === 0 || (empty && !attempt))
    return (
      <Page>
        <Heading>No pressure is planned.</Heading>
        <Note kind="plain">
          <LinkButton to={`/tests/${pack.id}/derive`}>Derive it first</LinkButton>
        </Note>
      </Page>
    );
  if (!attempt || attempt.over)
    return (
      <Page>
        <Heading>{`${attempt ? "Raised" : "To be raised"} in ${pack.schedule.length} steps to ${show.p(pack.schedule.at(-1)?.target_pa ?? 0, "up")}.`}</Heading>
        <Lead>{attempt ? "This attempt is over; its raise is on the record." : "Not released yet: this is the plan."}</Lead>
        <Schedule attempt={attempt} show={show} />
        <Follows steps={["raise"]} />
      </Page>
    );
  const off = attempt.events.some((e) => e.kind === "pump_off");
  return (
    <div className="flex min-h-full flex-col">
      <div className="grid flex-1 content-start gap-3 px-6 py-3 max-[700px]:px-4">
        <h1 className="m-0 text-2xl leading-tight font-bold" data-instruction>
          {view?.instruction ?? attempt.instruction}
        </h1>
        <p className="m-0 -mt-2 text-base text-soft" data-barrier>
          {view?.barrier ?? "Stand clear while the pressure rises."}
        </p>
        {off ? (
          <div>
            <LinkButton to={`/tests/${pack.id}/hold`} kind="main">
              Go to the hold
            </LinkButton>
          </div>
        ) : null}
        <Needle view={view} attempt={attempt} show={show} off={off} />
        {view?.warnings.map((w) => (
          <Note key={w} kind="stop" live>
            {w}
          </Note>
        ))}
        {pack.may.book ? <FromTheFile attempt={attempt} /> : null}
        <div className="grid items-start gap-6 min-[1100px]:grid-cols-[6fr_5fr]">
          <div className="grid gap-1">
            {view?.pumping ? (
              <>
                <h2 className="m-0 text-sm font-bold">Pumping curve: pressure against the volume pumped</h2>
                <PumpingCurve view={view.pumping} target={view.next_step?.target_pa} show={show} />
                <p className="m-0 text-sm" data-air={view.pumping.says ?? "none"}>
                  {view.pumping.sentence}
                </p>
              </>
            ) : (
              <Schedule attempt={attempt} show={show} />
            )}
          </div>
          <Steps reached={view?.reached ?? 0} attempt={attempt} show={show} />
        </div>
        {pack.may.book && attempt.events.some((e) => e.kind === "filled") ? <Typed recorded={Boolean(view?.recorded)} attempt={attempt} /> : null}
      </div>
      {pack.may.book && !off ? (
        <ActionBar
          onTheRig={Boolean(view?.on_the_rig)}
          timed={!view?.recorded}
          resting={view?.countdown?.words === "hold this step" && view.countdown.left_s > 0}
          attempt={attempt}
          reading={view?.pressure_pa ?? null}
          next={view?.next_step ?? pack.schedule[attempt.events.filter((e) => e.kind === "step_reached").length]}
          show={show}
        />
      ) : null}
    </div>
  );
}

/** The figure that is read across a table, and what is to go. */
function Needle({ view, attempt, show, off }: { view: LiveView | null; attempt: Attempt; show: Figures; off: boolean }) {
  const pack = usePack();
  const pa = view?.pressure_pa ?? attempt.last_pressure_pa;
  const stale = notNow(useLive(), pack.gauge.tag);
  const f = view?.forecast;
  const next = view?.next_step ?? pack.schedule[attempt.events.filter((e) => e.kind === "step_reached").length];
  const toGo = f?.to_go_pa;
  const perStroke = view?.pumping?.per_stroke_pa;
  return (
    <div className="grid grid-cols-[auto_1fr] items-end gap-x-12 gap-y-2 max-[700px]:grid-cols-1">
      <p className="relative m-0 leading-none">
        {stale && pa != null ? <NotNow>{stale}</NotNow> : null}
        {pa != null ? (
          <>
            <span className={`text-giant font-bold tracking-tight tabular-nums ${stale ? "text-soft" : ""}`} data-needle={pa}>
              {show.n(pa)}
            </span>
            <span className="ml-3 text-2xl text-soft">{show.symbol}</span>
          </>
        ) : (
          <span className="text-lg text-soft">{pack.gauge.tag}: nothing read yet</span>
        )}
        <span className={`mt-2 block text-base leading-snug ${stale ? "font-semibold text-limit" : "text-soft"}`}>
          {pa != null ? pack.gauge.tag : ""}
          {view?.age_s != null && !stale ? `, ${view.typed_by ? `typed by ${view.typed_by}, ` : view.recorded ? "live, " : ""}${ago(view.age_s)} ago` : ""}
          {view?.agreements.map((a) => (
            <span key={a.tag} className={a.agrees ? "" : "font-semibold text-danger"}>
              {" · "}
              {a.tag} {a.agrees ? "agrees" : "disagrees"}, {show.n(Math.abs(a.difference_pa))} {a.difference_pa < 0 ? "less" : "more"} at this height
            </span>
          ))}
        </span>
      </p>
      <div className="pb-1 text-base">
        {next && toGo != null && !off ? (
          <strong className={`block text-2xl ${-toGo > 0.02 * next.target_pa ? "text-danger" : "text-water"}`} data-to-go={toGo}>
            {toGo > 0 ? `${show.p(toGo)} to go` : -toGo > 3 * pack.gauge.division_pa ? `${show.p(-toGo)} above the step` : "step reached"}
          </strong>
        ) : null}
        {next && !off ? (
          <span className="block text-soft">
            step {next.number} of {pack.schedule.length}
          </span>
        ) : null}
        {f?.strokes_to_go != null ? (
          <span className="block">
            about {Math.ceil(f.strokes_to_go)} {f.strokes_to_go <= 1 ? "stroke" : "strokes"}
            {f.seconds_to_go != null ? `, ${f.seconds_to_go < 100 ? `${Math.round(f.seconds_to_go)} s` : `${Math.round(f.seconds_to_go / 60)} min`}` : ""}
          </span>
        ) : null}
        {perStroke != null ? (
          <span className="block text-soft">
            {show.n(perStroke)} {show.symbol} a stroke
          </span>
        ) : null}
        {view?.countdown && view.countdown.left_s > 0 ? <Countdown words={view.countdown.words} left={view.countdown.left_s} /> : null}
      </div>
    </div>
  );
}

function Countdown({ words, left }: { words: string; left: number }) {
  const s = Math.ceil(left);
  return (
    <span className="block text-lg" data-countdown={s}>
      {words}:{" "}
      <strong className="num">
        {Math.floor(s / 60)}:{String(s % 60).padStart(2, "0")}
      </strong>{" "}
      left
    </span>
  );
}

function Steps({ reached, attempt, show }: { reached: number; attempt: Attempt; show: Figures }) {
  const pack = usePack();
  const done = attempt.events.filter((e) => e.kind === "step_reached");
  return (
    <Section title="Steps">
      <table className="w-full border-collapse">
        <thead className="sr-only">
          <tr>
            <th scope="col">pressure</th>
            <th scope="col">what to do</th>
            <th scope="col">when</th>
          </tr>
        </thead>
        <tbody>
          {pack.schedule.map((s, i) => (
            <tr
              key={s.number}
              className={`border-b border-hair align-baseline ${i === reached ? "font-semibold text-water" : ""}`}
              data-step={i < reached ? "reached" : i === reached ? "now" : "later"}
            >
              <td className="num py-2 pr-3 text-lg">{show.p(s.target_pa, "up")}</td>
              <td className="pr-2 text-sm">
                {i < reached ? "reached" : i === pack.schedule.length - 1 ? `settle, then hold ${Math.round(pack.hold_s / 60)} min` : s.words}
              </td>
              <td className="num text-right text-sm">{i < reached ? clockOf(done[i]?.at ?? "") : i === reached ? "now" : ""}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Section>
  );
}

/** The plan over time, with what was read in front of it. */
function Schedule({ attempt, show }: { attempt: Attempt | undefined; show: Figures }) {
  const pack = usePack();
  const hold = api.useQuery(
    "get",
    "/api/v1/attempts/{attempt}/hold",
    { params: { path: { attempt: attempt?.id ?? "" } } },
    { enabled: Boolean(attempt), refetchInterval: 10_000 },
  );
  const fills = attempt?.events.find((e) => e.kind === "filled");
  const start = fills && attempt ? (Date.parse(fills.at) - Date.parse(attempt.released_at)) / 1000 : 0;
  const read = (hold.data?.pressure ?? [])
    .map((p) => ({ t_s: p.t_s - start, value: p.value }))
    .filter((p) => p.t_s >= 0 && p.t_s <= (pack.schedule.at(-1)?.ends_s ?? 0) * 1.5);
  const reached = attempt?.events.filter((e) => e.kind === "step_reached").length ?? 0;
  return (
    <Section title="Schedule, with what was read">
      <ScheduleCurve steps={pack.schedule} reached={reached} show={show} readings={read} />
    </Section>
  );
}

/** Typed readings: in front where no instrument is recorded, folded away where one is. */
function Typed({ recorded, attempt }: { recorded: boolean; attempt: Attempt }) {
  const pack = usePack();
  const [open, setOpen] = useState(false);
  if (recorded && !open)
    return (
      <p className="m-0 text-sm text-soft">
        {pack.gauge.tag} is recorded by itself.{" "}
        <button type="button" className="border-0 bg-transparent p-0 text-water underline" onClick={() => setOpen(true)}>
          Type a reading all the same
        </button>
      </p>
    );
  return (
    <Section title="Readings">
      <ReadingForm attempt={attempt} gauge={pack.gauge.tag} unit={pack.unit} />
      <LoggerImport attempt={attempt.id} />
    </Section>
  );
}
