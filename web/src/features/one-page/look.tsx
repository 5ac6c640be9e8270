import type { Attempt } from "../../api/client";
import { usePack } from "../../api/pack";
import { word } from "../../api/words";
import { EventButtons } from "../../booking";
import { FoundForm } from "../../registers/looks";

/** What was looked at, and the one act that closes what is left: all dry, except what is named. */
export function Look({ attempt }: { attempt: Attempt }) {
  const pack = usePack();
  const closed = pack.looks.filter((l) => l.looked && l.attempt === attempt.number);
  const open = pack.looks.filter((l) => !closed.includes(l));
  const looked = attempt.events.some((e) => e.kind === "look_done" && !e.place);
  if (!pack.looks.length)
    return looked ? (
      <p className="m-0 font-semibold text-water">Every joint was looked at.</p>
    ) : pack.may.book ? (
      <EventButtons attempt={attempt.id} events={[{ kind: "look_done", label: "Looked at every joint: all dry" }]} timed={false} />
    ) : null;
  return (
    <div className="grid gap-3" data-looks={open.length}>
      <h3 className="m-0 text-base font-semibold">{open.length ? "Look under pressure, and book what you saw" : "Looked at"}</h3>
      {closed.length ? (
        <p className="m-0 text-sm text-soft">{closed.map((l) => `${l.what}: ${word("look_found", l.found)}${l.where ? `, ${l.where}` : ""}`).join("; ")}.</p>
      ) : null}
      {open.length && pack.may.book ? <FoundForm attempt={attempt.id} places={open} /> : null}
    </div>
  );
}
