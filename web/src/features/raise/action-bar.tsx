import { useState } from "react";
import type { Attempt, Schema } from "../../api/client";
import { usePack } from "../../api/pack";
import { howToWrite, Happened, instant, LeakDialog, now, ReleaseDialog, RigHand, useBook } from "../../booking";
import { Button, Field, Problem, TextInput, useKey } from "../../ui";
import type { Figures } from "../../units";
import { zoneName } from "../../api/zone";

type Next = { kind: Schema["EventKind"]; label: string };

interface Props {
  attempt: Attempt;
  next: Schema["Step"] | null | undefined;
  show: Figures;
  onTheRig: boolean;
  /** True where nothing is recorded by itself: what was written on paper is booked with its time. */
  timed: boolean;
  /** True while a step is held: the next step is not yet the thing to do. */
  resting: boolean;
  /** What the gauge reads now, Pa. */
  reading: number | null;
}

/** The three things that a gloved hand must find: stop, the next step, something happened. Always in sight. */
export function ActionBar({ attempt, next, show, onTheRig, timed, resting, reading }: Props) {
  const pack = usePack();
  const { book, problem, busy } = useBook(attempt.id);
  const [stopping, setStopping] = useState(false);
  const [happened, setHappened] = useState(false);
  const [leak, setLeak] = useState(false);
  const [time, setTime] = useState("");
  const [unread, setUnread] = useState("");
  // a refusal names what the gauge read: once it reads otherwise, the refusal is past
  const [refusedAt, setRefusedAt] = useState<number | null>(null);
  const past = refusedAt != null && reading != null && Math.abs(reading - refusedAt) > 0.02 * Math.max(refusedAt, reading);
  const bookNext = async (kind: Schema["EventKind"]) => {
    setRefusedAt(reading);
    const at = instant(time);
    setUnread(at ? "" : howToWrite(time));
    if (at && (await book(kind, time.trim() ? { at } : {}))) setTime("");
  };
  useKey("l", () => setLeak(true));
  useKey("s", () => setStopping(true));
  const filled = attempt.events.some((e) => e.kind === "filled");
  const gas = pack.derived?.medium ? pack.derived.medium !== "liquid" : false;
  const then: Next = !filled
    ? { kind: "filled", label: gas ? "Joints checked, vents shut" : "Filled, vents closed, looked" }
    : next
      ? { kind: "step_reached", label: `${gas ? "Supply shut" : "Pump stopped"} at ${show.p(next.target_pa, "up")}` }
      : { kind: "pump_off", label: gas ? "Supply shut and disconnected" : "Pump off, valved off, disconnected" };
  return (
    <div className="sticky bottom-0 grid gap-2 border-t border-hair bg-paper px-6 py-3 max-[700px]:px-4">
      {onTheRig ? <RigHand attempt={attempt.id} /> : null}
      <Problem>{unread || (past ? "" : problem)}</Problem>
      {timed ? (
        <span className="w-56">
          <Field label={`At (${zoneName()})`}>
            {(f) => <TextInput {...f} value={time} onChange={(e) => setTime(e.target.value)} placeholder={`now, ${now().slice(0, 5)}`} />}
          </Field>
        </span>
      ) : null}
      <div className="grid grid-cols-[3fr_4fr_3fr] gap-4 max-[700px]:grid-cols-1 max-[700px]:gap-2">
        <Button kind="danger" size="huge" onClick={() => setStopping(true)}>
          Stop: release pressure
        </Button>
        <Button kind={resting ? "plain" : "main"} size="huge" disabled={busy} onClick={() => void bookNext(then.kind)}>
          {then.label}
        </Button>
        <Button size="huge" onClick={() => setHappened(true)}>
          Something happened…
        </Button>
      </div>
      <ReleaseDialog
        attempt={attempt.id}
        gauge={pack.gauge.tag}
        unit={pack.unit}
        open={stopping}
        onClose={() => setStopping(false)}
        title="Stop the pump. Release the pressure now."
        description="Slowly, by the bleed valve through the vent pipe; never by easing a plug or a union; nobody in line. Book it when zero is proved in every section. This ends the attempt."
      />
      <Happened attempt={attempt} open={happened} onClose={() => setHappened(false)} onLeak={() => setLeak(true)} />
      <LeakDialog attempt={attempt.id} open={leak} onClose={() => setLeak(false)} />
    </div>
  );
}
