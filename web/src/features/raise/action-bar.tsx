import { useState } from "react";
import type { Attempt, Schema } from "../../api/client";
import { Happened, LeakDialog, RigHand, useBook } from "../../booking";
import { Button, Dialog, Problem, useKey } from "../../ui";
import { type Unit, withUnit } from "../../units/pressure";

type Next = { kind: Schema["RunEventKind"]; label: string };

interface Props {
  attempt: Attempt;
  next: Schema["Step"] | null | undefined;
  unit: Unit;
  d: number;
  onTheRig: boolean;
}

/** The three things that a gloved hand must find: stop, the next step, something happened. Always in sight. */
export function ActionBar({ attempt, next, unit, d, onTheRig }: Props) {
  const { book, problem, busy } = useBook(attempt.id);
  const [stopping, setStopping] = useState(false);
  const [happened, setHappened] = useState(false);
  const [leak, setLeak] = useState(false);
  useKey("l", () => setLeak(true));
  useKey("s", () => setStopping(true));
  const filled = attempt.events.some((e) => e.kind === "filled");
  const then: Next = !filled
    ? { kind: "filled", label: "Filled, vents closed, looked" }
    : next
      ? { kind: "step_reached", label: `Pump stopped at ${withUnit(next.target_pa, unit, d)}` }
      : { kind: "pump_off", label: "Pump off, valved off, disconnected" };
  return (
    <div className="sticky bottom-0 grid gap-2 border-t border-hair bg-paper px-6 py-3 max-[700px]:px-4">
      {onTheRig ? <RigHand attempt={attempt.id} /> : null}
      <Problem>{problem}</Problem>
      <div className="grid grid-cols-[3fr_4fr_3fr] gap-4 max-[700px]:grid-cols-1 max-[700px]:gap-2">
        <Button kind="danger" size="huge" onClick={() => setStopping(true)}>
          Stop: release pressure
        </Button>
        <Button kind="main" size="huge" disabled={busy} onClick={() => void book(then.kind)}>
          {then.label}
        </Button>
        <Button size="huge" onClick={() => setHappened(true)}>
          Something happened…
        </Button>
      </div>
      {stopping ? (
        <Dialog
          open
          onOpenChange={(o) => !o && setStopping(false)}
          title="Stop the pump. Release the pressure now."
          description="Slowly, by the bleed valve through the vent pipe; never by easing a plug or a union; nobody in line. Book it when zero is proved in every section. This ends the attempt."
        >
          <div className="grid gap-3">
            <Button
              kind="danger"
              size="huge"
              disabled={busy}
              onClick={async () => {
                if (await book("released")) setStopping(false);
              }}
            >
              Released, zero proved in every section
            </Button>
            <Button size="large" onClick={() => setStopping(false)}>
              Go on with the test
            </Button>
            <Problem>{problem}</Problem>
          </div>
        </Dialog>
      ) : null}
      <Happened attempt={attempt.id} open={happened} onClose={() => setHappened(false)} onLeak={() => setLeak(true)} />
      <LeakDialog attempt={attempt.id} open={leak} onClose={() => setLeak(false)} />
    </div>
  );
}
