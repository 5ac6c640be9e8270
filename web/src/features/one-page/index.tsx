import { useCallback, useEffect, useRef, useState } from "react";
import { siteNow } from "../../api/clock";
import { api, type Attempt } from "../../api/client";
import { useOutbox } from "../../api/outbox";
import { usePack, usePackActions } from "../../api/pack";
import { clockOf, dayOf, momentOf } from "../../api/zone";
import { ReadingSheet, WhatHappened } from "../../booking";
import { Says } from "../../follows";
import { ThreeLines } from "../../judgement";
import { useLive } from "../../live";
import { Heading, LinkButton, Page, Section } from "../../ui";
import { useFigures } from "../../units";
import { Back } from "./back";
import { Bar, Begin } from "./bar";
import { Before } from "./before";
import { Look } from "./look";
import { FilledSheet, ShedSheet } from "./sheet";
import { Signing } from "./signing";
import { counted, heldFor, lowers, onlyUnsaid, settles, STAGES, type Standing, standing } from "./stage";

/** A pack has gates, registers and several people: it goes step by step. */
export function OnePage() {
  const pack = usePack();
  if (pack.form === "quick") return <Alone />;
  return (
    <Page>
      <Heading>A pack goes step by step.</Heading>
      <p className="m-0 max-w-[80ch]">One page is for a quick test, which one person does alone. A pack has its gates, registers and people.</p>
      <div>
        <LinkButton to={`/tests/${pack.id}/derive`}>Go to its steps</LinkButton>
      </div>
    </Page>
  );
}

/** A whole test on one page, from the plan to the signature, for one person with a phone. */
function Alone() {
  const pack = usePack();
  const { refresh } = usePackActions();
  const attempt = pack.attempts.at(-1);
  const sent = useCallback(() => void refresh(), [refresh]);
  const kept = useOutbox(attempt?.id, sent);
  const at = standing(pack, kept);
  const now = STAGES.findIndex(([s]) => s === at.stage);
  const shut = pack.gates.filter((g) => !g.ready).length;
  const over = useHoldOver(at, heldFor(pack, at));
  const here = useRef<HTMLDivElement>(null);
  const before = useRef("ready");
  // what comes next is brought into sight when it becomes the next thing
  useEffect(() => {
    if (before.current === at.stage) return;
    before.current = at.stage;
    here.current?.scrollIntoView({ block: "start", behavior: "auto" });
  }, [at.stage]);
  return (
    <Page>
      <Heading>{headline(pack, at, shut)}</Heading>
      {STAGES.map(([stage, title], i) => (
        <div key={stage} ref={i === now ? here : undefined} data-stage={stage} data-state={i < now || at.stage === "done" ? "done" : i === now ? "now" : "later"}>
          {at.stage === "done" || i <= now ? (
            <Section title={title} aside={i < now || at.stage === "done" ? said(stage, attempt) : "now"}>
              {stage === "ready" ? (
                i === now ? (
                  <Before />
                ) : (
                  <Openings />
                )
              ) : attempt ? (
                <Stage stage={stage} attempt={attempt} at={at} current={i === now} over={over} />
              ) : null}
            </Section>
          ) : (
            <p className="m-0 border-b border-hair py-1 text-soft">{title}</p>
          )}
        </div>
      ))}
      <div className="flex flex-wrap gap-3 print:hidden">
        <ReadingSheet label="Print a blank sheet for the shed" sheet={<ShedSheet />} />
        {(at.stage === "ready" && shut === 0) || (attempt && !attempt.over) ? <FilledSheet /> : null}
        <LinkButton to={`/tests/${pack.id}/derive`}>Every step by itself</LinkButton>
      </div>
      {at.stage === "ready" ? (
        <Begin shut={shut} />
      ) : attempt && pack.may.book && ["fill", "raise", "hold", "release"].includes(at.stage) ? (
        <Bar attempt={attempt} at={at} over={over} />
      ) : null}
    </Page>
  );
}

function headline(pack: ReturnType<typeof usePack>, at: Standing, shut: number): string {
  switch (at.stage) {
    case "ready":
      return shut === 0 || onlyUnsaid(pack) ? "Ready to begin." : shut === 1 ? "One thing stops this test." : `${shut} things stop this test.`;
    case "fill":
      return "Fill it slowly from the bottom, every vent open.";
    case "raise":
      return "Raise it step by step.";
    case "hold":
      return "It holds: read, and look.";
    case "release":
      return "Let the pressure out.";
    case "restore":
      return "Put everything back.";
    case "sign":
      return "Sign it.";
    case "done":
      return `Signed and sealed: ${pack.number}.`;
  }
}

/** When a stage was done, in a word or two. */
function said(stage: string, attempt: Attempt | undefined): string {
  const at = (kind: string) => attempt?.events.find((e) => e.kind === kind)?.at;
  const when: Record<string, string | undefined> = {
    ready: attempt?.released_at,
    fill: at("filled"),
    raise: at("pump_off"),
    hold: at("hold_ended"),
    release: at("released"),
  };
  const of = when[stage];
  // with its day where it was another than that on which it began
  return of ? `done, ${attempt && dayOf(of) !== dayOf(attempt.released_at) ? momentOf(of) : clockOf(of)}` : "done";
}

/** What was closed for the test, in a line each, while it runs. */
function Openings() {
  const pack = usePack();
  if (!pack.boundary.length) return <p className="m-0 text-sm text-soft">Nothing was closed for the test.</p>;
  return <p className="m-0 text-sm text-soft">Closed for the test: {pack.boundary.map((b) => b.tag).join("; ")}.</p>;
}

/** True once the time of the hold is over, by the clock of the installation. */
function useHoldOver(at: Standing, held_s: number): boolean {
  const [, tick] = useState(0);
  useEffect(() => {
    if (at.stage !== "hold") return;
    const timer = setInterval(() => tick((n) => n + 1), 1000);
    return () => clearInterval(timer);
  }, [at.stage]);
  return at.off != null && siteNow() >= at.off + held_s * 1000;
}

function Stage({ stage, attempt, at, current, over }: { stage: string; attempt: Attempt; at: Standing; current: boolean; over: boolean }) {
  const pack = usePack();
  const { view } = useLive();
  if (stage === "fill")
    return current ? (
      <div className="grid gap-2">
        <p className="m-0 max-w-[80ch]">
          Let each vent run free of bubbles, then shut it, the lowest first. Dry it outside, so that a drop can be seen. Check every plug and joint by hand now: nothing
          is tightened once there is pressure.
        </p>
        <p className="m-0 text-sm text-soft">
          <Says line="soak" />
        </p>
      </div>
    ) : null;
  if (stage === "raise")
    return (
      <div className="grid gap-3">
        <Steps attempt={attempt} at={at} />
        {current && at.reached >= pack.schedule.length ? <p className="m-0 text-lg font-semibold text-water">{view?.instruction ?? attempt.instruction}</p> : null}
      </div>
    );
  if (stage === "hold")
    return (
      <div className="grid gap-3">
        {current ? (
          <>
            <Left at={at} over={over} />
            <p className="m-0 text-base text-soft">{view?.barrier}</p>
            {/* the look and what was read stay in sight to the end of the hold */}
            <Look attempt={attempt} />
            <Readings attempt={attempt} at={at} />
          </>
        ) : null}
      </div>
    );
  if (stage === "release")
    return current ? (
      <p className="m-0 max-w-[80ch]">
        Slowly, by the bleed, nobody in line; never by easing a plug or a union. When the gauge is at zero open the high vent, and only then drain: a falling column
        without a vent pulls a vacuum. {pack.boundary.length ? "Then take out what was closed for the test." : ""}
      </p>
    ) : null;
  if (stage === "restore") return <Back attempt={attempt} at={at} />;
  return (
    <div className="grid gap-4">
      {attempt.judgement ? <ThreeLines judgement={attempt.judgement} /> : null}
      <Signing attempt={attempt} />
      <WhatHappened events={attempt.events} />
    </div>
  );
}

/** How long it still holds, in figures for an arm's length. */
function Left({ at, over }: { at: Standing; over: boolean }) {
  const pack = usePack();
  const show = useFigures(pack);
  const total = heldFor(pack, at);
  const left = at.off == null ? total : Math.max(0, Math.ceil((at.off + total * 1000 - siteNow()) / 1000));
  return (
    <p className="m-0 text-lg" data-left={left}>
      {over ? (
        <strong className="text-water">Its time is over: end the hold.</strong>
      ) : (
        <>
          <strong className="num text-2xl">
            {Math.floor(left / 60)}:{String(left % 60).padStart(2, "0")}
          </strong>{" "}
          left of {show.of(total, "time_s")}.{" "}
          {settles(pack) > 0 && !at.has("repump")
            ? `Let it settle for ${show.of(settles(pack), "time_s")}, then pump it up again once, shut the pump off, and say so. `
            : ""}
          Read the gauge now, again near the end, and in between
          {counted(pack) ? ", ten times at least, and how warm it is with it" : ""}; look at every place.
        </>
      )}
    </p>
  );
}

function Steps({ attempt, at }: { attempt: Attempt; at: Standing }) {
  const pack = usePack();
  const show = useFigures(pack);
  const times = attempt.events.filter((e) => e.kind === "step_reached").map((e) => e.at);
  return (
    <table className="w-full max-w-2xl border-collapse">
      <thead className="sr-only">
        <tr>
          <th scope="col">pressure</th>
          <th scope="col">what to do</th>
          <th scope="col">when</th>
        </tr>
      </thead>
      <tbody>
        {pack.schedule.map((s, i) => (
          <tr key={s.number} className={`border-b border-hair align-baseline ${i === at.reached ? "font-semibold text-water" : i < at.reached ? "text-soft" : ""}`}>
            <td className="num py-1.5 pr-3 text-lg whitespace-nowrap">{show.p(s.target_pa, "up")}</td>
            <td className="pr-2 text-sm">{i === pack.schedule.length - 1 && !lowers(pack) ? "stop the pump, let it settle, shut it off" : s.words}</td>
            <td className="num text-right text-sm">{times[i] ? clockOf(times[i] ?? "") : i === at.reached ? "next" : ""}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** What was read in the hold, the last first. */
function Readings({ attempt, at }: { attempt: Attempt; at: Standing }) {
  const pack = usePack();
  const show = useFigures(pack);
  const hold = api.useQuery("get", "/api/v1/attempts/{attempt}/hold", { params: { path: { attempt: attempt.id } } });
  const from = Date.parse(attempt.released_at);
  const read = (hold.data?.pressure ?? []).filter((p) => at.off == null || from + p.t_s * 1000 >= at.off - 500).slice(-6);
  if (!read.length) return <p className="m-0 text-sm text-limit">Nothing was read in the hold yet: read the gauge now.</p>;
  return (
    <p className="m-0 text-sm" data-read={read.length}>
      Read: {read.map((p) => `${show.p(p.value)} at ${clockOf(from + p.t_s * 1000)}`).join("; ")}.
    </p>
  );
}
