import { Link, Navigate } from "@tanstack/react-router";
import type { ReactNode } from "react";
import { api, type Schema, sentence } from "../../api/client";
import { useChosen, useInHand } from "../../api/project";
import { useMe } from "../../api/session";
import { Heading, Lead, LinkButton, Note, Page, Section, Skeleton } from "../../ui";
import { useFigures } from "../../units";

type Line = Schema["PackLine"];
type Board = Schema["Today"];

function Row({ line, action }: { line: Line; action: string }) {
  const show = useFigures();
  // a quick test is all of it on one page
  const at = `/tests/${line.id}/${line.form === "quick" ? "page" : line.step}`;
  return (
    <li className="grid grid-cols-[6.5rem_minmax(0,1fr)_auto] items-baseline gap-x-4 border-b border-hair py-2 max-[600px]:grid-cols-[5.5rem_minmax(0,1fr)]">
      <span className="num font-semibold">{line.number}</span>
      <span>
        <Link to={at as "/"} className="font-semibold text-ink">
          {line.title}
        </Link>
        <span className="ml-3 text-sm text-soft">
          {line.basis}
          {line.planned_pa ? `, ${show.free(line.planned_pa, "up")}` : ""}
        </span>
      </span>
      <Link to={at as "/"} className="text-sm text-water max-[600px]:col-start-2">
        {line.renewing && line.state !== "being renewed" ? `${line.state}, being renewed` : line.state}
        <span className="sr-only">: {action}</span> ›
      </Link>
    </li>
  );
}

/** A link to the list of all that are so. */
function All({ search, children }: { search: Record<string, unknown>; children: ReactNode }) {
  return (
    <Link to={"/packs" as "/"} search={search as never} className="text-water">
      {children}
    </Link>
  );
}

interface GroupProps {
  title: string;
  group: Schema["Group"];
  state: Schema["StateKind"];
  action: string;
  none: string;
}

function Group({ title, group, state, action, none }: GroupProps) {
  const more = group.total - group.lines.length;
  return (
    <Section title={title} aside={group.total ? `${group.total}` : undefined}>
      {group.lines.length ? (
        <ul className="m-0 list-none p-0">
          {group.lines.map((l) => (
            <Row key={l.id} line={l} action={action} />
          ))}
        </ul>
      ) : (
        <p className="m-0 text-sm text-soft">{none}</p>
      )}
      {more > 0 ? (
        <p className="m-0 text-sm">
          <All search={{ state }}>{more === 1 ? "1 more" : `${more} more`} ›</All>
        </p>
      ) : null}
    </Section>
  );
}

/** What waits for whoever looks: first what only they do, then what their role clears on many. */
function Waiting({ board, several }: { board: Board; several: boolean }) {
  const mine = board.stopped.filter((s) => s.mine > 0);
  if (board.waiting.length + mine.length === 0) return null;
  return (
    <Section title="Waiting for me">
      <ul className="m-0 list-none p-0" data-waiting>
        {board.waiting.map((w) => (
          <li key={`${w.pack_id} ${w.what}`} className="border-b border-hair">
            <Link
              to={`/tests/${w.pack_id}/${w.step}` as "/"}
              className="grid grid-cols-[6.5rem_minmax(0,1fr)_auto] items-baseline gap-x-4 py-2 text-ink no-underline hover:bg-sheet max-[600px]:grid-cols-[5.5rem_minmax(0,1fr)]"
            >
              <span className="num font-semibold">{w.number}</span>
              <span>
                <span className="font-semibold">{w.sentence}</span>{" "}
                <span className="text-sm text-soft">
                  {w.title}
                  {several ? `, ${w.project_name}` : ""}
                </span>
              </span>
              <span className="text-sm text-water max-[600px]:hidden">go there ›</span>
            </Link>
          </li>
        ))}
        {mine.map((s) => (
          <li key={s.rule} className="border-b border-hair py-2">
            <All search={{ owes: s.rule, mine: true }}>{s.mine === s.tests ? s.words : `${s.words}, ${s.mine} of them for you`} ›</All>
          </li>
        ))}
      </ul>
    </Section>
  );
}

/** What stops tests, and how many. */
function Stopped({ board }: { board: Board }) {
  return (
    <Section title="Stopped" aside={board.blocked ? `${board.blocked}` : undefined}>
      {board.stopped.length ? (
        <ul className="m-0 list-none p-0" data-stopped>
          {board.stopped.map((s) => (
            <li key={s.rule} className="border-b border-hair py-1.5">
              <All search={{ owes: s.rule }}>{s.words} ›</All>
            </li>
          ))}
        </ul>
      ) : (
        <p className="m-0 text-sm text-soft">{board.blocked ? <All search={{ state: "blocked" }}>{board.blocked} tests are stopped ›</All> : "Nothing is stopped."}</p>
      )}
    </Section>
  );
}

export function Today() {
  // whoever looks after the installation has no part in any test
  return useMe().administrator ? <Navigate to={"/people" as "/"} replace /> : <Tests />;
}

/** Asked for anew though nothing was heard: the stream may be broken. */
const AT_LEAST = 60_000;

function Tests() {
  const me = useMe();
  const project = useChosen();
  useInHand(project);
  const today = api.useQuery("get", "/api/v1/today", { params: { query: { project: project?.id } } }, { refetchInterval: AT_LEAST });
  if (today.isError && !today.data)
    return (
      <Page>
        <Note kind="stop">{sentence(today.error)}</Note>
      </Page>
    );
  if (!today.data)
    return (
      <Page>
        <Skeleton />
      </Page>
    );
  return <Day board={today.data} several={!project && me.projects.length > 1} />;
}

function counted(count: number, one: string, many: string): string {
  return count === 0 ? `no test ${one}` : count === 1 ? `one test ${one}` : `${count} tests ${many}`;
}

function Day({ board: t, several }: { board: Board; several: boolean }) {
  const say = [
    counted(t.running.total, "is under way", "are under way"),
    counted(t.ready.total, "can be released", "can be released"),
    counted(t.blocked, "is stopped", "are stopped"),
  ].join(", ");
  const projects = useMe().projects;
  // whoever makes no packs comes for a test of their own
  const alone = projects.some((p) => p.may_make_quick) && !projects.some((p) => p.may_make_pack);
  const empty = t.running.total + t.ready.total + t.judged.total + t.blocked + t.signed === 0;
  return (
    <Page>
      <Heading>{`${say.charAt(0).toUpperCase()}${say.slice(1)}.`}</Heading>
      <Lead>
        {t.date}, {t.zone}
        {t.renewing ? (
          <span role="status" data-renewing>
            {" "}
            · {t.renewing === 1 ? "1 line is" : `${t.renewing} lines are`} being renewed{t.lag_s >= 2 ? `, for ${Math.round(t.lag_s)} s` : ""}
          </span>
        ) : null}
      </Lead>
      {alone && !empty ? (
        <div>
          <LinkButton to="/quick" kind="main">
            A new quick test
          </LinkButton>
        </div>
      ) : null}
      <FirstSteps tests={t.running.total + t.ready.total + t.judged.total + t.blocked + t.signed} />
      {empty ? null : (
        <div className="grid gap-6 lg:grid-cols-[minmax(0,1fr)_270px]">
          <div className="grid min-w-0 content-start gap-6">
            <Waiting board={t} several={several} />
            <Group title="Under test now" group={t.running} state="running" action="open" none="Nothing is under pressure." />
            <Group title="Can be released" group={t.ready} state="ready" action="release" none="Nothing is ready." />
            <Stopped board={t} />
            <Group title="Tested, not yet closed" group={t.judged} state="judged" action="see the judgement" none="Nothing waits for a retest or a signature." />
          </div>
          <Beside board={t} />
        </div>
      )}
    </Page>
  );
}

/** A project with no more tests than this is only beginning. */
const BEGINNING = 2;

/** The way to a first test, which goes away as it is walked. */
function FirstSteps({ tests }: { tests: number }) {
  const me = useMe();
  const pack = me.projects.some((p) => p.may_make_pack);
  const quick = me.projects.some((p) => p.may_make_quick);
  const instruments = api.useQuery("get", "/api/v1/instruments", {}, { enabled: tests <= BEGINNING });
  if (tests > BEGINNING || !instruments.data) return null;
  const steps = [
    ["/instruments", "Add an instrument", "A test is read from a gauge with its certificate.", instruments.data.length === 0 && (pack || quick)],
    ["/quick", "Make a quick test", "One body, five answers, one page: a boiler, a receiver, a spool.", tests === 0 && quick],
    ["/packs/new", "Add a pack", "A filling with its lines, gates and registers.", tests === 0 && pack],
  ] as const;
  const left = steps.filter(([, , , owed]) => owed);
  if (left.length === 0) return tests === 0 ? <Note kind="plain">You are named on no test yet: it appears here once you are.</Note> : null;
  return (
    <Section title="First steps">
      <ol className="m-0 grid list-none gap-0 p-0" data-first>
        {left.map(([to, words, why], i) => (
          <li key={to} className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-hair py-3">
            <LinkButton to={to} kind={i === 0 ? "main" : "plain"}>
              {words}
            </LinkButton>
            <span className="text-sm text-soft">{why}</span>
          </li>
        ))}
      </ol>
    </Section>
  );
}

/** What is still in, what runs out, what is done. */
function Beside({ board: t }: { board: Board }) {
  return (
    <div className="grid min-w-0 content-start gap-6 text-sm">
      <Section title="Blinds still in">
        {t.blinds.lines.length ? (
          <ul className="m-0 list-none p-0">
            {t.blinds.lines.flatMap((l) =>
              l.blinds.map((b) => (
                <li key={`${l.id}${b.tag}`} className="border-b border-hair py-1">
                  <Link to={`/tests/${l.id}/bound` as "/"} className="text-ink">
                    <span className="num font-semibold">{b.tag}</span>
                  </Link>{" "}
                  {b.place}, <span className="num">{l.number}</span>
                </li>
              )),
            )}
          </ul>
        ) : (
          <p className="m-0 text-soft">None.</p>
        )}
        {t.blinds.total > t.blinds.lines.length ? <All search={{ blinds: true }}>{t.blinds.total} packs with blinds in ›</All> : null}
      </Section>
      <Section title="Runs out this week">
        {t.ends.length ? (
          t.ends.map((e) => (
            <p key={e.tag} className={`m-0 ${e.over ? "text-limit" : ""}`}>
              {e.sentence}
            </p>
          ))
        ) : (
          <p className="m-0 text-soft">No certificate.</p>
        )}
      </Section>
      <Section title="Signed">
        {t.signed ? (
          <All search={{ state: "signed" }}>{t.signed === 1 ? "1 record" : `${t.signed} records`} ›</All>
        ) : (
          <p className="m-0 text-soft">Nothing is signed yet.</p>
        )}
      </Section>
    </div>
  );
}
