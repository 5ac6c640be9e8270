import { ThreeLines } from "../../judgement";
import { useMemo, useState } from "react";
import { type Attempt, api, type Schema } from "../../api/client";
import { term } from "../../api/words";
import { useAttempt, usePack } from "../../api/pack";
import { useSeriesBytes } from "../../api/series";
import {
  ByHandButton,
  EventButtons,
  FromTheFile,
  LeakDialog,
  LoggerImport,
  LookDialog,
  PaperReadings,
  ReadingForm,
  ReadingSheet,
  RigHand,
  TypedReadings,
  WhatHappened,
} from "../../booking";
import { type LiveView, notNow, useLive } from "../../live";
import { HoldChart } from "../../pictures/hold-chart";
import { decode, extended } from "../../pictures/series";
import { Follows } from "../../follows";
import { LookList } from "../../registers/looks";
import { Button, Heading, Lead, LinkButton, Note, Page, Rows, Section, useKey } from "../../ui";
import { type Figures, useFigures } from "../../units";
import { clockOf } from "../../api/zone";

type Offered = Parameters<typeof EventButtons>[0]["events"];

const button = (kind: Offered[number]["kind"], more: Partial<Offered[number]> = {}) => ({ kind, label: term("event", kind).more, ...more });

const inTheHold = (): Offered => [
  button("look_done"),
  button("repump", { asks: "Repumped? The hold's clock starts again.", measured: true }),
  button("bleed", { asks: "Was some of it let out? The hold's clock starts again.", measured: true }),
  button("hold_ended", { asks: "End the hold? Readings after this do not count for it." }),
];

/** Still under pressure after its end: a look that is taken lower down is taken now. */
const afterIt = (): Offered => [button("bleed", { label: "Lowered", asks: "Lowered slowly, with nobody in line?" }), button("look_done")];

export function Hold() {
  const pack = usePack();
  const attempt = useAttempt();
  const show = useFigures(pack);
  const { view: live, trail } = useLive();
  const [leak, setLeak] = useState(false);
  const [look, setLook] = useState(false);
  const [whole, setWhole] = useState(false);
  const hold = api.useQuery(
    "get",
    "/api/v1/attempts/{attempt}/hold",
    { params: { path: { attempt: attempt?.id ?? "" } } },
    { enabled: Boolean(attempt), refetchInterval: 10_000 },
  );
  const bytes = useSeriesBytes(attempt?.id);
  const stored = useMemo(() => (bytes.data ? decode(bytes.data) : undefined), [bytes.data]);
  const series = useMemo(() => stored && { ...stored, pressure: extended(stored.pressure, trail) }, [stored, trail]);
  const booked = (kind: Attempt["events"][number]["kind"]) => attempt?.events.some((e) => e.kind === kind) ?? false;
  const held = attempt && !attempt.over && booked("pump_off");
  const holding = held && !booked("hold_ended");
  useKey("l", () => setLeak(true), Boolean(held && pack.may.book));
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
  const instruction = live?.instruction ?? attempt.instruction;
  const [headline, ...more] = judgement ? (judgement.says?.length ? judgement.says : [judgement.sentence]) : [];
  return (
    <Page>
      <Heading>{judgement ? headline : held ? (started ? "Holding." : "Not held yet.") : instruction}</Heading>
      {judgement || !held ? <Lead>{judgement ? more.join(" ") : "The hold's clock starts when the pump is booked as off."}</Lead> : null}
      {held ? <Now live={live} attempt={attempt} view={hold.data} /> : null}
      {live?.warnings.map((w) => (
        <Note key={w} kind="stop" live>
          {w}
        </Note>
      ))}
      {hold.data ? (
        <div className="grid gap-1">
          <div className="flex justify-end">
            <button type="button" className="border-0 bg-transparent p-0 text-sm text-water underline" onClick={() => setWhole(!whole)}>
              {whole ? "zoom to the hold" : "show the whole run"}
            </button>
          </div>
          <HoldChart view={hold.data} series={series} judgement={judgement} show={show} divisionPa={pack.gauge.division_pa} whole={whole || !started} />
        </div>
      ) : null}
      {pack.looks.length && !hold.data?.coverage.length ? (
        judgement ? (
          <SoFar judgement={judgement} />
        ) : null
      ) : (
        <div className="grid items-start gap-6 min-[1100px]:grid-cols-2">
          <LookedAt coverage={hold.data?.coverage ?? []} every={attempt.events.some((e) => e.kind === "look_done" && !e.place)} />
          {judgement ? <SoFar judgement={judgement} /> : null}
        </div>
      )}
      <LookList attempt={attempt} may={{ book: Boolean(held && pack.may.book), change: pack.may.looks }} />
      {pack.may.book && !attempt.over ? <FromTheFile attempt={attempt} /> : null}
      {held && pack.may.book ? (
        <div className="grid gap-4">
          <div className="flex flex-wrap items-end gap-3">
            <Button kind="main" onClick={() => setLeak(true)}>
              Note a leak (l)
            </Button>
            {pack.looks.length ? null : <Button onClick={() => setLook(true)}>Looked at…</Button>}
            <EventButtons attempt={attempt.id} events={(holding ? inTheHold() : afterIt()).filter((e) => e.kind !== "look_done" || !pack.looks.length)} />
            <ByHandButton attempt={attempt} />
          </div>
          {live?.on_the_rig ? <RigHand attempt={attempt.id} /> : null}
          <Section title="Readings" aside={<ReadingSheet />}>
            <ReadingForm attempt={attempt} gauge={pack.gauge.tag} unit={pack.unit} />
            <div className="flex flex-wrap items-start gap-3">
              <LoggerImport attempt={attempt.id} />
              <PaperReadings attempt={attempt} gauge={pack.gauge.tag} unit={pack.unit} />
            </div>
          </Section>
          <LeakDialog attempt={attempt.id} open={leak} onClose={() => setLeak(false)} />
          <LookDialog attempt={attempt.id} open={look} onClose={() => setLook(false)} />
        </div>
      ) : null}
      <div className="grid items-start gap-6 min-[1100px]:grid-cols-2">
        <WhatHappened events={attempt.events} />
        {hold.data ? <ReadingsTable view={hold.data} show={show} /> : null}
      </div>
      {!held && attempt.over && pack.may.book && !attempt.frozen ? (
        <div>
          <PaperReadings attempt={attempt} gauge={pack.gauge.tag} unit={pack.unit} />
        </div>
      ) : null}
      <TypedReadings attempt={attempt.id} may={pack.may.book && !attempt.frozen} />
      <Follows steps={["hold"]} />
    </Page>
  );
}

/** What is waited for now: the end of the hold, the moment at which the question is settled, the lower bound. */
function Now({ live, attempt, view }: { live: LiveView | null; attempt: Attempt; view: Schema["HoldView"] | undefined }) {
  const at = (s: number) => clockOf(Date.parse(attempt.released_at) + s * 1000);
  const minutes = (s: number) => `${Math.floor(s / 60)}:${String(Math.floor(s % 60)).padStart(2, "0")}`;
  const left = live?.countdown?.left_s;
  const stale = notNow(useLive(), usePack().gauge.tag);
  const pack = usePack();
  const show = useFigures(pack);
  const flow = (q: number) => show.of(q, pack.plan.basis.medium !== "liquid" ? "normal_leak_m3_per_s" : "leak_m3_per_s");
  const holding = !attempt.events.some((e) => e.kind === "hold_ended");
  return (
    <p className="m-0 flex flex-wrap gap-x-6 gap-y-1 text-base" data-now>
      <strong className="text-water">{live?.instruction ?? attempt.instruction}</strong>
      {left != null && left > 0 ? (
        <span>
          <strong className="num">{minutes(left)}</strong> left
        </span>
      ) : null}
      {holding && attempt.judgement?.found.leak ? (
        <span data-limit>
          can show <strong className="num">{flow(attempt.judgement.found.leak.detection_limit_m3_per_s)}</strong> so far
          {attempt.judgement.found.planned_limit_m3_per_s != null ? (
            <span className="text-soft">, planned {flow(attempt.judgement.found.planned_limit_m3_per_s)}</span>
          ) : null}
        </span>
      ) : null}
      {view?.settles_s != null ? (
        <span data-settles={view.settles_s}>
          settles by <strong className="num">{at(view.settles_s)}</strong>
        </span>
      ) : null}
      {left === 0 && live?.countdown?.words === "hold" ? <strong>the hold's time is over</strong> : null}
      {live?.falling?.reaches_s != null && left != null && live.falling.reaches_s < left ? (
        <strong className="text-danger">at this fall it reaches the lower bound in {minutes(live.falling.reaches_s)}</strong>
      ) : null}
      {stale ? (
        <strong className="text-danger" data-not-now>
          {stale}
        </strong>
      ) : null}
      <span className="basis-full text-sm text-soft">{live?.barrier}</span>
    </p>
  );
}

/** Where it was looked at, class by class. */
function LookedAt({ coverage, every }: { coverage: Schema["Coverage"][]; every: boolean }) {
  return (
    <Section title="Where it was looked at">
      {coverage.length ? (
        <Rows columns={["class of places", "dry", "leaks"]}>
          {coverage.map((c) => (
            <tr key={c.place} className="border-b border-hair" data-class={c.place}>
              <td className="py-1.5">{c.words}</td>
              <td className="num font-semibold">{c.looked ? `${Math.max(0, c.looked - c.leaks)} of ${c.looked} dry` : "not counted"}</td>
              <td className={c.leaks ? "font-semibold text-limit" : "text-soft"}>{c.leaks ? `${c.leaks} of them ${c.leaks === 1 ? "leaks" : "leak"}` : ""}</td>
            </tr>
          ))}
        </Rows>
      ) : (
        <p className="m-0 text-sm text-soft">No class is booked yet. A steady gauge never replaces the look.</p>
      )}
      <p className={`m-0 text-sm ${every ? "" : "text-limit"}`}>
        {every ? "Every joint in the claim is booked as looked at." : "The look at every joint is still owed."}
      </p>
    </Section>
  );
}

function SoFar({ judgement }: { judgement: Schema["Judgement"] }) {
  return (
    <Section title="As it stands now" aside="what signing would say">
      <ThreeLines judgement={judgement} />
    </Section>
  );
}

/** The chart's figures as a table. */
function ReadingsTable({ view, show }: { view: Schema["HoldView"]; show: Figures }) {
  const [open, setOpen] = useState(false);
  const warmth = (c: number | undefined) => (c === undefined ? "" : show.in(c, "temperature_c", 2));
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
            <th scope="col">{show.symbol}</th>
            <th scope="col">{show.symbolOf("temperature_c")}</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((p) => (
            <tr key={p.t_s} className="border-b border-hair">
              <td className="num py-0.5">{clockOf(Date.parse(view.released_at) + p.t_s * 1000, true)}</td>
              <td className="num">{show.n(p.value)}</td>
              <td className="num">{warmth(temperatures.get(p.t_s))}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Section>
  );
}
