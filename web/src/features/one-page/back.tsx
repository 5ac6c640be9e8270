import type { Attempt } from "../../api/client";
import { usePack } from "../../api/pack";
import { term } from "../../api/words";
import { EventButtons } from "../../booking";
import { Button, Problem } from "../../ui";
import { useRegister } from "../../registers";
import { Promises } from "../../registers/promises";
import { countOf } from "./openings";
import type { Standing } from "./stage";

/** What must be out or back before anybody signs. */
export function Back({ attempt, at }: { attempt: Attempt; at: Standing }) {
  const pack = usePack();
  const register = useRegister("boundary");
  const lines = attempt.restore.filter((l) => !l.promise);
  return (
    <div className="grid gap-3">
      <ul className="m-0 list-none p-0">
        {lines.map((l) => {
          const done = l.done || Boolean(l.event && at.has(l.event));
          const item = pack.boundary.find((b) => b.tag === l.item);
          return (
            <li key={l.sentence} className="flex flex-wrap items-center justify-between gap-3 border-b border-hair py-2" data-done={done}>
              <span className={done ? "text-soft" : ""}>{l.sentence}</span>
              {done ? (
                <span className="text-sm font-semibold text-water">done</span>
              ) : attempt.frozen ? null : l.event && pack.may.book && !l.waits_for ? (
                <EventButtons attempt={attempt.id} events={[{ kind: l.event, label: term("event", l.event).more }]} timed={false} />
              ) : item && pack.may.plan ? (
                <Button
                  size="large"
                  onClick={() => void register.change(item, { tag: item.tag, kind: item.kind, place: item.place, set_for_test: true, put_back: true })}
                >
                  {item.kind === "plug" && countOf(item.tag) === 1 ? "It is out" : term("boundary_kind", item.kind).more}
                </Button>
              ) : (
                <span className="text-sm text-limit">open</span>
              )}
            </li>
          );
        })}
      </ul>
      <Problem>{register.problem}</Problem>
      {pack.promises.length ? <Promises /> : null}
    </div>
  );
}
