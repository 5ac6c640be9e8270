import { Link, Navigate } from "@tanstack/react-router";
import { api, type Schema, sentence } from "../../api/client";
import { useMe } from "../../api/session";
import { Heading, Lead, LinkButton, Note, Page, Section } from "../../ui";
import { useFigures } from "../../units";

type Line = Schema["PackLine"];

function Row({ line, step, action }: { line: Line; step: string; action: string }) {
  const show = useFigures();
  return (
    <li className="grid grid-cols-[6.5rem_minmax(0,1fr)_auto] items-baseline gap-x-4 border-b border-hair py-2">
      <span className="num font-semibold">{line.number}</span>
      <span>
        <Link to={`/tests/${line.id}/${step}` as "/"} className="font-semibold text-ink">
          {line.title}
        </Link>
        <span className="ml-3 text-sm text-soft">
          {line.basis}
          {line.planned_pa ? `, ${show.free(line.planned_pa, "up")}` : ""}
        </span>
        {line.blockers.map((b) => (
          <Link key={b.sentence} to={`/tests/${line.id}/${b.step}` as "/"} className="mt-1 block max-w-[90ch] text-sm text-limit no-underline hover:underline">
            {b.sentence}
            <span className="text-soft"> The {b.who} clears it.</span>
          </Link>
        ))}
      </span>
      <Link to={`/tests/${line.id}/${step}` as "/"} className="text-sm whitespace-nowrap text-water">
        {line.state}
        <span className="sr-only">: {action}</span> ›
      </Link>
    </li>
  );
}

function Group({ title, lines, step, action, none }: { title: string; lines: Line[]; step: string; action: string; none: string }) {
  return (
    <Section title={title} aside={lines.length ? `${lines.length}` : undefined}>
      {lines.length ? (
        <ul className="m-0 list-none p-0">
          {lines.map((l) => (
            <Row key={l.id} line={l} step={step} action={action} />
          ))}
        </ul>
      ) : (
        <p className="m-0 text-sm text-soft">{none}</p>
      )}
    </Section>
  );
}

export function Today() {
  // whoever looks after the installation has no part in any test
  return useMe().role === "administrator" ? <Navigate to="/security" replace /> : <Tests />;
}

function Tests() {
  const me = useMe();
  const today = api.useQuery("get", "/api/v1/today", {}, { refetchInterval: 10_000 });
  if (today.isError)
    return (
      <Page>
        <Note kind="stop">{sentence(today.error)}</Note>
      </Page>
    );
  if (!today.data) return null;
  const t = today.data;
  const n = (count: number, one: string, many: string) => (count === 0 ? `no test ${one}` : count === 1 ? `one test ${one}` : `${count} tests ${many}`);
  const say = [
    n(t.running.length, "is under way", "are under way"),
    n(t.ready.length, "can be released", "can be released"),
    n(t.blocked.length, "is stopped", "are stopped"),
  ].join(", ");
  const empty = [t.running, t.ready, t.judged, t.blocked, t.signed].every((l) => l.length === 0);
  return (
    <Page>
      <Heading>{`${say.charAt(0).toUpperCase()}${say.slice(1)}.`}</Heading>
      <Lead>
        {t.date}, {me.zone}
      </Lead>
      {empty ? (
        <Note kind="plain">
          You are named on no test that is planned. A quick test takes five answers: <LinkButton to="/quick">make a quick test</LinkButton>
        </Note>
      ) : (
        <div className="grid gap-6 lg:grid-cols-[minmax(0,1fr)_270px]">
          <div className="grid content-start gap-6">
            <Group title="Under test now" lines={t.running} step="hold" action="open" none="Nothing is under pressure." />
            <Group title="Can be released" lines={t.ready} step="ready" action="release" none="Nothing is ready." />
            <Group title="Stopped" lines={t.blocked} step="ready" action="see what stops it" none="Nothing is stopped." />
            <Group title="Tested, not yet closed" lines={t.judged} step="judge" action="see the judgement" none="Nothing waits for a retest or a signature." />
            <Group title="Signed" lines={t.signed} step="sign" action="open the record" none="Nothing is signed yet." />
          </div>
          <div className="grid content-start gap-6 text-sm">
            <Section title="Blinds still in">
              {t.blinds_in.length ? (
                <ul className="m-0 list-none p-0">
                  {t.blinds_in.map((b) => (
                    <li key={`${b.pack_id}${b.tag}`} className="border-b border-hair py-1">
                      <Link to={`/tests/${b.pack_id}/bound` as "/"} className="text-ink">
                        <span className="num font-semibold">{b.tag}</span>
                      </Link>{" "}
                      {b.place}, <span className="num">{b.pack_number}</span>
                    </li>
                  ))}
                </ul>
              ) : (
                <p className="m-0 text-soft">None.</p>
              )}
            </Section>
            <Section title="Instruments out of date">
              {t.instruments_out.length ? (
                t.instruments_out.map((s) => (
                  <p key={s} className="m-0 text-limit">
                    {s}
                  </p>
                ))
              ) : (
                <p className="m-0 text-soft">None.</p>
              )}
            </Section>
          </div>
        </div>
      )}
    </Page>
  );
}
