import { useCallback } from "react";
import { dropAct, sendAgain, useOutbox } from "../api/outbox";
import { usePackActions } from "../api/pack";
import { clockOf } from "../api/zone";
import { Button } from "../ui";

/** What is kept on this device of a test: sent by itself, or refused and to be decided about. */
export function KeptActs({ attempt }: { attempt: string | undefined }) {
  const { refresh } = usePackActions();
  const sent = useCallback(() => void refresh(), [refresh]);
  const acts = useOutbox(attempt, sent);
  if (!acts.length) return null;
  const waiting = acts.filter((a) => !a.refused);
  return (
    <section aria-label="Kept on this device" role="status" data-kept={acts.length} className="grid gap-2 border-b border-limit bg-limitwash px-5 py-2 text-sm text-ink">
      {waiting.length ? (
        <p className="m-0">
          <strong>Kept on this device, not yet sent:</strong> {waiting.map((a) => `${a.words}, ${clockOf(a.at)}`).join("; ")}. It is sent as soon as the server can be
          reached.
        </p>
      ) : null}
      {acts
        .filter((a) => a.refused)
        .map((a) => (
          <div key={a.id} className="flex flex-wrap items-center gap-3" data-refused={a.words}>
            <span role="alert">
              <strong>
                Not taken: {a.words}, {clockOf(a.at)}.
              </strong>{" "}
              {a.refused} What was done after it waits here.
            </span>
            <Button onClick={() => void sendAgain(a.id, Boolean(a.asked)).then(() => refresh())}>
              {a.asked ? "The gauge really shows this: send it" : "Send it again"}
            </Button>
            <Button onClick={() => dropAct(a.id)}>It was not so: take it off</Button>
          </div>
        ))}
    </section>
  );
}
