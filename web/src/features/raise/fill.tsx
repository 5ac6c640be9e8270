import { useState } from "react";
import type { Attempt, Schema } from "../../api/client";
import { useAttempt, usePack } from "../../api/pack";
import { term } from "../../api/words";
import { clockOf } from "../../api/zone";
import { ByHandButton, EventButtons, LeakDialog, LeakMap, ReleaseDialog, WhatHappened } from "../../booking";
import { Follows } from "../../follows";
import { useLive } from "../../live";
import { Button, Heading, Lead, LinkButton, Note, Page, Section } from "../../ui";
import { useFigures } from "../../units";

export function Fill() {
  const pack = usePack();
  const attempt = useAttempt();
  if (!attempt || attempt.over)
    return (
      <Page>
        <Heading>Not released for test.</Heading>
        <Note kind="plain">
          Filling begins after the release. <LinkButton to={`/tests/${pack.id}/ready`}>See what stops it</LinkButton>
        </Note>
      </Page>
    );
  const filled = attempt.events.find((e) => e.kind === "filled");
  const says = pack.derived?.medium && pack.derived.medium !== "liquid" ? GAS : LIQUID;
  const gasFirst = attempt.low_gas != null && attempt.low_gas !== "passed" && !filled;
  const proved = attempt.events.some((e) => e.kind === "valve_proved");
  return (
    <Page>
      <Heading>{gasFirst ? "The low gas test comes first, before any water." : says.heading[filled ? 1 : 0]}</Heading>
      {gasFirst ? null : <Lead>{says.lead}</Lead>}
      {gasFirst ? <LowGas attempt={attempt} /> : null}
      <Section title={says.during}>
        <ul className="m-0 list-disc pl-5 text-base leading-relaxed">
          {says.points.map((p) => (
            <li key={p}>{p}</li>
          ))}
        </ul>
      </Section>
      {attempt.low_gas && !gasFirst ? <LowGas attempt={attempt} /> : null}
      <AsItGoes attempt={attempt} />
      <Follows steps={["fill"]} />
      {filled || gasFirst || !pack.may.book ? null : <EventButtons attempt={attempt.id} size="large" events={[{ kind: "filled", label: says.done, main: true }]} />}
      {pack.may.book && filled && !proved ? <EventButtons attempt={attempt.id} events={[{ kind: "valve_proved", label: term("event", "valve_proved").more }]} /> : null}
      {pack.may.book && !attempt.events.some((e) => e.kind === "step_reached") ? <StopHere attempt={attempt} /> : null}
      {filled ? (
        <div>
          <LinkButton to={`/tests/${pack.id}/raise`} kind={attempt.events.some((e) => e.kind === "leak_seen") ? "plain" : "main"}>
            Go on to the raise
          </LinkButton>
        </div>
      ) : null}
    </Page>
  );
}

const LIQUID = {
  heading: ["Fill slowly from the bottom, every vent open.", "Filled and vented."],
  lead: "Let each vent run free of bubbles for 5 minutes, its water led away from the joints. Close from the lowest up. Then look, with only the static head on: a leak here spares the rest.",
  during: "While it fills",
  points: [
    "Keep no air: a small volume hides a leak and stores energy.",
    "Dry every outside surface, so that a drop can be seen.",
    "Check every temporary joint by hand at zero pressure; nothing is tightened once the pressure is on.",
  ],
  done: "Filled, vents closed, looked",
};

const GAS = {
  heading: ["Check every joint by hand, then shut the vents.", "Vents shut, ready for the gas."],
  lead: "Nothing is filled with water here. The supply is regulated, the relief valve stands between it and the system, and the way from the supply is shut until the raise begins. Where air has to be out, purge until the gas comes clean, then shut each vent.",
  during: "Before the gas goes in",
  points: [
    "Check every temporary joint by hand at zero pressure; nothing is tightened once the pressure is on.",
    "The barriers stand, and nobody who is not needed is inside them.",
    "Purged gas goes outside, never into a room or a pit where somebody breathes.",
    "Between steps the supply is shut; before the hold it is shut and disconnected.",
  ],
  done: "Joints checked, vents shut",
};

const LOW_GAS: Record<Schema["LowGas"], string> = {
  to_do: "Planned before wetting, and not made yet. Nobody near while it rises; a regulated supply with its relief valve at the cap.",
  to_look: "Gas is in it. Soap every joint, or watch it under water, and book that you looked.",
  dry: "No bubble was booked. When its ten minutes are over let the gas out, prove zero, and book that.",
  leaks: "It leaks. Look for all the others while it stands, then let the gas out: repair it dry, at zero, and begin it again.",
  passed: "Passed. The gas is out: fill it.",
};

/** The low gas test before wetting: what comes next in it, and the time that is left. */
function LowGas({ attempt }: { attempt: Attempt }) {
  const pack = usePack();
  const show = useFigures(pack);
  const { view } = useLive();
  const stage = attempt.low_gas ?? "to_do";
  const [leak, setLeak] = useState(false);
  const pretest = pack.derived?.pretest;
  const left = view?.countdown?.waits_for === "low_gas" ? view.countdown.left_s : null;
  return (
    <Section title="Low gas test" aside={pretest ? `${show.free(pretest.pressure_pa)}, never above ${show.free(pretest.cap_pa ?? pretest.pressure_pa, "down")}` : ""}>
      <p className="m-0 max-w-[80ch]" data-low-gas={stage}>
        {LOW_GAS[stage]}{" "}
        {left != null && left > 0 ? (
          <strong className="num">
            {Math.floor(left / 60)}:{String(Math.floor(left % 60)).padStart(2, "0")} left
          </strong>
        ) : null}
      </p>
      {pack.may.book ? (
        <div className="flex flex-wrap gap-3">
          <ByHandButton attempt={attempt} kind="gas_on" />
          <ByHandButton attempt={attempt} kind="soaped" />
          {stage === "to_look" || stage === "dry" || stage === "leaks" ? <Button onClick={() => setLeak(true)}>It leaks…</Button> : null}
          <ByHandButton attempt={attempt} kind="gas_off" />
          <LeakDialog attempt={attempt.id} open={leak} onClose={() => setLeak(false)} />
        </div>
      ) : null}
    </Section>
  );
}

/** What is booked while it fills and soaks, and the wait that follows from what was read. */
function AsItGoes({ attempt }: { attempt: Attempt }) {
  const pack = usePack();
  const show = useFigures(pack);
  const gas = pack.derived?.medium ? pack.derived.medium !== "liquid" : false;
  const soak = attempt.soak;
  const filled = attempt.events.some((e) => e.kind === "filled");
  const t = (c: number) => show.of(c, "temperature_c");
  const until = (s: number) => clockOf(Date.parse(attempt.released_at) + s * 1000);
  return (
    <>
      {gas ? null : (
        <p className="m-0 max-w-[80ch]" data-soak={soak ? soak.takes : "unknown"}>
          {soak
            ? soak.takes > 0
              ? `Water at ${t(soak.water)}, surroundings at ${t(soak.air)}: let it soak for ${show.of(soak.takes, "time_s")} from when they were read, until ${until(soak.until_s)}, before a fall means anything.`
              : `Water at ${t(soak.water)}, surroundings at ${t(soak.air)}: as warm as each other, no wait is needed.`
            : filled
              ? "Nobody has read how warm water and surroundings are. Book both, and the wait is said; or leave it full overnight."
              : "Book where it fills from and each vent as it runs clear; once it is full, how warm water and surroundings are."}
        </p>
      )}
      {pack.may.book ? (
        <div className="flex flex-wrap gap-3">
          {gas ? null : (
            <>
              <ByHandButton attempt={attempt} kind="fill_begun" />
              <ByHandButton attempt={attempt} kind="vent_ran" />
              <ByHandButton attempt={attempt} kind="water_was" />
            </>
          )}
          <ByHandButton attempt={attempt} kind="air_was" />
          <ByHandButton attempt={attempt} />
        </div>
      ) : null}
      {attempt.events.length ? <WhatHappened events={attempt.events} /> : null}
    </>
  );
}

/** A leak before any pressure: it is booked with its place, and the run ends here with a record of its own. */
function StopHere({ attempt }: { attempt: Attempt }) {
  const pack = usePack();
  const [leak, setLeak] = useState(false);
  const [stopping, setStopping] = useState(false);
  const leaks = attempt.events.filter((e) => e.kind === "leak_seen").length;
  return (
    <Section title="Does it leak already?" aside={leaks ? `${leaks} booked` : ""}>
      <p className="m-0 max-w-[80ch]">
        Look for all of them while nothing is under pressure, and book each with its place, so that one repair is enough. Then stop here: the run ends with a record of
        what was seen, and the next attempt follows it.
      </p>
      <LeakMap />
      <div className="flex flex-wrap gap-3">
        <Button onClick={() => setLeak(true)}>Book a leak…</Button>
        <Button kind="danger" onClick={() => setStopping(true)}>
          Stop here
        </Button>
      </div>
      <LeakDialog attempt={attempt.id} open={leak} onClose={() => setLeak(false)} />
      <ReleaseDialog
        attempt={attempt.id}
        gauge={pack.gauge.tag}
        unit={pack.unit}
        open={stopping}
        onClose={() => setStopping(false)}
        title="Stop here, before any pressure."
        description="Open the vent, let down what stands in it, and book it when every section is at zero. This ends the attempt; its record says what was seen."
      />
    </Section>
  );
}
