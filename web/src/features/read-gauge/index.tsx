import { useState } from "react";
import { useAttempt, usePack } from "../../api/pack";
import { Happened, LeakDialog, ReadingForm } from "../../booking";
import { ago, notNow, useLive } from "../../live";
import { Button, LinkButton, Note, NotNow, Page } from "../../ui";
import { useFigures } from "../../units";

/** For the gauge reader with a phone: one figure in, the last one shown, one tap for what happened. */
export function ReadGauge() {
  const pack = usePack();
  const attempt = useAttempt();
  const show = useFigures(pack);
  const live = useLive();
  const { view } = live;
  const stale = notNow(live, pack.gauge.tag);
  const [happened, setHappened] = useState(false);
  const [leak, setLeak] = useState(false);
  if (!attempt || attempt.over || !pack.may.book)
    return (
      <Page>
        <h1 className="m-0 text-xl font-bold">Nothing to read now.</h1>
        <Note kind="plain">
          {attempt && !attempt.over ? "You can follow this test, but your role does not book readings." : "Readings are taken while a test is under way."}{" "}
          <LinkButton to="/">Today</LinkButton>
        </Note>
      </Page>
    );
  const pa = view?.pressure_pa ?? attempt.last_pressure_pa;
  return (
    <div className="mx-auto grid w-full max-w-[520px] content-start gap-4 px-4 py-4">
      <h1 className="m-0 text-xl leading-tight font-bold">Read {pack.gauge.tag}</h1>
      <p className="m-0 -mt-2 text-base text-soft">{view?.barrier ?? ""}</p>
      <ReadingForm attempt={attempt} gauge={pack.gauge.tag} unit={pack.unit} stacked />
      <p className="relative m-0 border-t border-hair pt-3 text-base">
        {stale ? <NotNow>{stale}</NotNow> : null}
        Last:{" "}
        <strong className={`num text-lg ${stale ? "text-soft line-through decoration-danger" : ""}`}>
          {pa != null ? `${show.n(pa)} ${show.symbol}` : "nothing yet"}
        </strong>
        {view?.age_s != null ? (
          <span className="text-soft">
            , {view.typed_by ? `typed by ${view.typed_by}, ` : ""}
            {ago(view.age_s)} ago
          </span>
        ) : null}
      </p>
      <Button size="huge" onClick={() => setHappened(true)}>
        Something happened…
      </Button>
      <LinkButton to={`/tests/${pack.id}/raise`}>The whole picture</LinkButton>
      <Happened attempt={attempt} open={happened} onClose={() => setHappened(false)} onLeak={() => setLeak(true)} />
      <LeakDialog attempt={attempt.id} open={leak} onClose={() => setLeak(false)} />
    </div>
  );
}
