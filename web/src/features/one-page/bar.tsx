import { type ReactNode, useEffect, useRef, useState } from "react";
import { createPortal } from "react-dom";
import { siteNow } from "../../api/clock";
import { type Attempt, newId, type Schema, sentence } from "../../api/client";
import { type Act, perform } from "../../api/outbox";
import { usePack, usePackActions } from "../../api/pack";
import { useKept } from "../../api/typing";
import { term } from "../../api/words";
import { inUnits, LeakDialog, ReleaseDialog } from "../../booking";
import { useLive } from "../../live";
import { Button, Field, Problem, TextInput } from "../../ui";
import { SYMBOL, useFigures } from "../../units";
import { lowers, onlyUnsaid, settles, type Standing, wordsOf } from "./stage";

type Kind = Schema["EventKind"];

/** Acts of one tap, all of the same moment, after what the gauge showed then. */
function useTap(attempt: Attempt) {
  const pack = usePack();
  const { refresh } = usePackActions();
  const [became, setBecame] = useState({ why: "", asked: false });
  const [busy, setBusy] = useState(false);
  // tapped again unchanged it has the same ids and time, so it is stored once
  const sent = useRef({ what: "", at: "", ids: [] as string[] });
  const tap = async (kinds: readonly Kind[], shows: string, warm: string, sure = false): Promise<boolean> => {
    const what = JSON.stringify([attempt.id, kinds, shows, warm]);
    if (sent.current.what !== what) sent.current = { what, at: new Date(siteNow()).toISOString(), ids: Array.from({ length: 6 }, newId) };
    const { at, ids } = sent.current;
    const id = (i: number) => ids[i] ?? newId();
    const typed = [
      { id: id(0), channel: "pressure" as const, text: shows.trim() },
      { id: id(1), channel: "temperature" as const, text: warm.trim() },
    ].filter((r) => r.text);
    const reading: Act = {
      id: id(0),
      attempt: attempt.id,
      at,
      words: shows.trim() ? `${pack.gauge.tag} shows ${shows} ${SYMBOL[pack.unit]}` : `temperature ${warm}`,
      does: { is: "readings", body: { readings: typed.map((r) => ({ ...r, at, of: "", unit: pack.unit, sure })) } },
    };
    const events = kinds.map(
      (kind, i): Act => ({ id: id(i + 2), attempt: attempt.id, at, words: term("event", kind).words, does: { is: "event", body: { kind, at, note: "" } } }),
    );
    setBusy(true);
    const done = await perform([...(typed.length ? [reading] : []), ...events]);
    setBusy(false);
    setBecame(done);
    // what was taken before a refusal is there now
    await refresh();
    if (done.why) {
      // another try is another moment, unless only the reading is asked about
      if (!done.asked) sent.current.what = "";
      return false;
    }
    sent.current.what = "";
    return true;
  };
  return { tap, became, busy };
}

interface Props {
  attempt: Attempt;
  at: Standing;
  /** The hold's time is over. */
  over: boolean;
}

/** The one next thing, where a thumb reaches it: what the gauge shows, and what was done. */
export function Bar({ attempt, at, over }: Props) {
  const pack = usePack();
  const show = useFigures(pack);
  const { view } = useLive();
  const { tap, became, busy } = useTap(attempt);
  const degrees = show.symbolOf("temperature_c");
  const [{ shows, warm }, set, stored] = useKept(`bar ${attempt.id} in ${pack.unit} ${degrees}`, "a reading", { shows: "", warm: "" });
  const [leak, setLeak] = useState(false);
  const [stopping, setStopping] = useState(false);
  // how warm it is is read while it holds, where there is a thermometer that is read by eye
  const warmed = at.stage === "hold" && Boolean(pack.plan.thermometer_tag) && !attempt.further.some((f) => f.recorded && f.channel === "temperature");
  const live = Boolean(view && !view.silent && !view.typed_by && view.recorded && view.pressure_pa != null);
  const step = pack.schedule[at.reached];
  const last = at.reached >= pack.schedule.length - 1;
  const go = async (kinds: readonly Kind[], sure = false) => {
    const sent = { shows, warm };
    if (await tap(kinds, live ? "" : shows, warmed ? inUnits(warm, degrees) : "", sure)) stored(sent);
  };
  const p = (pa: number) => show.p(pa, "up");
  const next: { kinds: readonly Kind[]; label: string; reads: boolean; main?: boolean } =
    at.stage === "fill"
      ? { kinds: ["filled"], label: "It is full, vents shut, nothing drips", reads: false }
      : at.stage === "raise"
        ? step && last && !lowers(pack)
          ? { kinds: ["step_reached", "pump_off"], label: `At ${p(step.target_pa)}: pump stopped and shut off`, reads: true }
          : step
            ? { kinds: ["step_reached"], label: `Pump stopped at ${p(step.target_pa)}`, reads: true }
            : { kinds: ["pump_off"], label: lowers(pack) ? "Lowered, pump shut off" : "Pump shut off", reads: true }
        : at.stage === "hold"
          ? over
            ? { kinds: ["hold_ended"], label: shows.trim() ? "Keep this reading, and end the hold" : "End the hold", reads: true }
            : { kinds: [], label: "Keep this reading", reads: true }
          : { kinds: LET_OUT.filter((k) => !at.has(k)), label: "At zero, vent open, drained", reads: !at.has("released") };
  const under = at.stage === "raise" || at.stage === "hold" || at.stage === "release";
  return (
    <Foot stage={at.stage}>
      {became.why ? (
        <div className="grid gap-2">
          <Problem>{became.why}</Problem>
          {became.asked ? <Button onClick={() => void go(next.kinds, true)}>The gauge really shows this</Button> : null}
        </div>
      ) : null}
      <form
        className="grid grid-cols-[14rem_1fr] items-end gap-3 max-[600px]:grid-cols-[8rem_1fr]"
        noValidate
        onSubmit={(e) => {
          e.preventDefault();
          void go(next.kinds);
        }}
      >
        {next.reads && !live ? (
          <Field dial label={`${pack.gauge.tag} shows, ${SYMBOL[pack.unit]}`}>
            {(f) => <TextInput {...f} className="min-h-14 text-2xl" inputMode="decimal" value={shows} onChange={(e) => set({ shows: e.target.value })} />}
          </Field>
        ) : null}
        <Button
          type="submit"
          kind="main"
          size="huge"
          className={next.reads && !live ? "" : "col-span-full"}
          disabled={busy || (next.kinds.length === 0 && !shows.trim() && !warm.trim())}
        >
          {next.label}
        </Button>
      </form>
      <div className="flex flex-wrap gap-3">
        <Button className="min-h-11 text-base" onClick={() => setLeak(true)}>
          It leaks…
        </Button>
        {under ? (
          <Button kind="danger" className="min-h-11 text-base" onClick={() => setStopping(true)}>
            Stop: let it out
          </Button>
        ) : null}
        {at.stage === "raise" && !step ? (
          <Button className="min-h-11 text-base" disabled={busy || !shows.trim()} onClick={() => void go([])}>
            Keep this reading
          </Button>
        ) : null}
        {at.stage === "hold" && settles(pack) > 0 && !at.has("repump") ? (
          <Button className="min-h-11 text-base" disabled={busy || !(live || shows.trim())} onClick={() => void go(["repump"])}>
            Pumped up again, and shut off
          </Button>
        ) : null}
        {at.stage === "hold" && !over ? <EndEarly onEnd={() => void go(["hold_ended"])} /> : null}
      </div>
      <LeakDialog attempt={attempt.id} open={leak} onClose={() => setLeak(false)} />
      <ReleaseDialog
        attempt={attempt.id}
        gauge={pack.gauge.tag}
        unit={pack.unit}
        open={stopping}
        onClose={() => setStopping(false)}
        title="Stop the pump. Let the pressure out now."
        description="Slowly, by the bleed, never by easing a plug or a union, nobody in line. Book it when the gauge is at zero. This ends the attempt."
      />
    </Foot>
  );
}

const LET_OUT: readonly Kind[] = ["released", "vent_opened", "drained"];

/** A hold that ends before its time is not the hold that was asked: it is said first. */
function EndEarly({ onEnd }: { onEnd: () => void }) {
  const [sure, setSure] = useState(false);
  if (!sure)
    return (
      <Button className="min-h-11 text-base" onClick={() => setSure(true)}>
        End it early…
      </Button>
    );
  return (
    <span className="flex flex-wrap items-center gap-3">
      <strong className="text-limit">Its time is not over: the test will not be complete.</strong>
      <Button className="min-h-11 text-base" onClick={onEnd}>
        End it all the same
      </Button>
      <Button className="min-h-11 text-base" onClick={() => setSure(false)}>
        Go on holding
      </Button>
    </span>
  );
}

/** What begins the test: the release, under the name of whoever does it. */
export function Begin({ shut }: { shut: number }) {
  const pack = usePack();
  const show = useFigures(pack);
  // what keeps the pressure down is said by whoever begins, in the same tap
  const unsaid = onlyUnsaid(pack);
  const actions = usePackActions();
  const [problem, setProblem] = useState("");
  const attempt = pack.attempts.at(-1);
  const [{ reason }, set, done] = useKept(`begin ${pack.id}`, "why it is tested again", { reason: "" });
  if (!pack.may.release) return null;
  const begin = async (said?: Partial<Schema["Plan"]>) => {
    setProblem("");
    try {
      if (said) await actions.plan({ ...pack.plan, ...said }, pack.title, pack.version);
      await actions.release(reason, null);
      done();
    } catch (e) {
      setProblem(sentence(e));
    }
  };
  return (
    <Foot stage="ready">
      {attempt?.frozen ? (
        <Field label="Why the signed record is superseded">{(f) => <TextInput {...f} value={reason} onChange={(e) => set({ reason: e.target.value })} />}</Field>
      ) : null}
      <Problem>{problem}</Problem>
      {unsaid ? (
        wordsOf(pack, show).map(([words, said]) => (
          <Button key={words} kind="main" size="huge" onClick={() => void begin(said)}>
            Begin: {words}
          </Button>
        ))
      ) : (
        <Button kind="main" size="huge" disabled={shut > 0} onClick={() => void begin()}>
          {shut === 0 ? "Begin the test now" : shut === 1 ? "One thing above stops it" : `${shut} things above stop it`}
        </Button>
      )}
    </Foot>
  );
}

/** Under what scrolls, where a thumb reaches it. */
function Foot({ stage, children }: { stage: string; children: ReactNode }) {
  const [at, setAt] = useState<HTMLElement | null>(null);
  useEffect(() => setAt(document.getElementById("foot")), []);
  const bar = (
    <div className="grid gap-2 border-t border-rule bg-paper px-6 py-3 max-[600px]:px-4 print:hidden" data-bar={stage}>
      {children}
    </div>
  );
  return at ? createPortal(bar, at) : null;
}
