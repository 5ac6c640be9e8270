import { useState } from "react";
import type { Schema } from "../../api/client";
import { term } from "../../api/words";
import { useAttempt, usePack } from "../../api/pack";
import { ByHandButton, EventButtons, ReleaseDialog } from "../../booking";
import { Follows } from "../../follows";
import { Button, Heading, Lead, LinkButton, Note, Page } from "../../ui";
import { useRegister } from "../../registers";
import { Promises } from "../../registers/promises";

export function Restore() {
  const pack = usePack();
  const attempt = useAttempt();
  if (!attempt)
    return (
      <Page>
        <Heading>Nothing to put back yet.</Heading>
        <Note kind="plain">After the hold: release, vent before drain, every blind out, every removed item back.</Note>
      </Page>
    );
  const gas = pack.derived?.medium ? pack.derived.medium !== "liquid" : false;
  const left = attempt.restore.filter((l) => !l.done).length;
  return (
    <Page>
      <Heading>{left === 0 ? "Everything is put back." : left === 1 ? "One thing is left to put back." : `${left} things are left to put back.`}</Heading>
      <Lead>
        {gas
          ? "Let the gas out slowly through the vent to the outside, never by easing a plug or union, nobody in line. Nobody goes into anything that held it before there is air to breathe."
          : "Release slowly by the bleed valve, never by easing a plug or union, nobody in line. Open the high vent before draining: a falling column without a vent pulls a vacuum."}
      </Lead>
      <ol className="m-0 list-none p-0">
        {attempt.restore
          .filter((l) => !l.promise)
          .map((l) => (
            <Line key={l.sentence} line={l} attempt={attempt.id} frozen={attempt.frozen} />
          ))}
      </ol>
      {left === 0 ? (
        <div>
          <LinkButton to={`/tests/${pack.id}/sign`} kind="main">
            Go on to the signatures
          </LinkButton>
        </div>
      ) : null}
      {pack.may.book && !attempt.frozen && attempt.by_hand.length ? (
        <div>
          <ByHandButton attempt={attempt} />
        </div>
      ) : null}
      <Promises />
      <Follows steps={["restore"]} />
    </Page>
  );
}

function Line({ line, attempt, frozen }: { line: Schema["RestoreLine"]; attempt: string; frozen: boolean }) {
  const pack = usePack();
  const register = useRegister("boundary");
  const [releasing, setReleasing] = useState(false);
  const item = pack.boundary.find((b) => b.tag === line.item);
  const does = line.event ? term("event", line.event).more : item ? term("boundary_kind", item.kind).more : "Done";
  const back = async () => {
    if (!item) return;
    const body = { tag: item.tag, kind: item.kind, place: item.place, set_for_test: true, put_back: true };
    await register.change(item, body);
  };
  const may = line.event ? pack.may.book : pack.may.plan;
  return (
    <li
      className="grid grid-cols-[5rem_1fr_auto] items-center gap-3 border-b border-hair py-2 max-[700px]:grid-cols-[3.5rem_1fr] max-[700px]:[&>*:nth-child(3)]:col-start-2 max-[700px]:[&>*:nth-child(3)]:justify-self-start"
      data-done={line.done}
    >
      <span className={`text-sm font-bold ${line.done ? "text-water" : "text-limit"}`}>{line.done ? "done" : "open"}</span>
      <span>
        {line.sentence}
        {!line.done && line.waits_for ? <span className="block text-sm text-soft">Waits: {line.waits_for}</span> : null}
        {register.problem ? (
          <span role="alert" className="block text-sm font-semibold text-danger">
            {register.problem}
          </span>
        ) : null}
      </span>
      {line.done || frozen || !may ? null : line.event === "released" ? (
        <>
          <Button onClick={() => setReleasing(true)}>{does}</Button>
          <ReleaseDialog
            attempt={attempt}
            gauge={pack.gauge.tag}
            unit={pack.unit}
            open={releasing}
            onClose={() => setReleasing(false)}
            title="Was the pressure released, and zero proved in every section?"
            description="By the bleed valve through the vent pipe, nobody in line. Every section that can be shut off by itself is proved by itself."
          />
        </>
      ) : line.event && !line.waits_for ? (
        <EventButtons attempt={attempt} events={[{ kind: line.event, label: does }]} />
      ) : (
        <Button disabled={Boolean(line.waits_for)} onClick={() => void back()}>
          {does}
        </Button>
      )}
    </li>
  );
}
