import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { Link, Outlet, useNavigate, useParams, useRouterState } from "@tanstack/react-router";
import { http, type Pack, type Plan, sentence } from "../api/client";
import { useInHand } from "../api/project";
import { PackProvider, packOptions } from "../api/pack";
import { KeptActs } from "./kept";
import { Loud } from "./loud";
import { NextBar } from "./next-bar";
import { LiveProvider, notNow, useLive } from "../live";
import { GaugeStrip } from "../pictures/gauge-strip";
import { Spine } from "../pictures/spine";
import { Button, Note, Page, Skeleton, useKey } from "../ui";

/** Channels in the order in which the server numbers them: gauge, thermometer, the others, each once. */
function recorded(plan: Plan): string[] {
  const tags = [plan.gauge_tag ?? "", plan.thermometer_tag ?? "", ...(plan.also ?? []).map((a) => a.tag)];
  return [...new Set(tags.filter(Boolean))];
}

/** The strip with the needle as it moves. */
function LiveStrip({ pack }: { pack: Pack }) {
  const live = useLive();
  const { view, trail } = live;
  return <GaugeStrip pack={pack} live={view?.pressure_pa != null ? { pa: view.pressure_pa, trail, stale: Boolean(notNow(live, pack.gauge.tag)) } : undefined} />;
}

/** Says that a test is in no list, and brings it back. */
function PutAway({ pack }: { pack: Pack }) {
  const queries = useQueryClient();
  const back = async () => {
    await http.PUT("/api/v1/packs/{id}/away", { params: { path: { id: pack.id } }, body: { away: false, reason: "" } });
    await queries.invalidateQueries({ predicate: (q) => q.queryKey[1] !== "/api/v1/session" });
  };
  return (
    <Note kind="stop">
      {pack.away}{" "}
      {pack.may.plan ? (
        <Button onClick={() => void back()} className="ml-2">
          Bring it back
        </Button>
      ) : null}
    </Note>
  );
}

/** Spine on the left, gauge strip on the right, on every screen of a test. */
export function TestFrame() {
  const { id } = useParams({ strict: false }) as { id: string };
  const pack = useQuery({ ...packOptions(id), refetchInterval: 10_000 });
  useInHand(pack.data?.project);
  const queries = useQueryClient();
  const path = useRouterState({ select: (s) => s.location.pathname });
  const here = path.split("/").at(-1) ?? "";
  const navigate = useNavigate();
  const steps = pack.data?.spine.filter((s) => s.state !== "collapsed").map((s) => s.step as string) ?? [];
  const move = (by: number) => {
    const next = steps[steps.indexOf(here) + by];
    if (next) void navigate({ to: `/tests/${id}/${next}` as "/" });
  };
  useKey("]", () => move(1));
  useKey("[", () => move(-1));
  // a step opens at its top, under its own title, and whoever hears the page hears it from there
  const step = useRef<HTMLElement>(null);
  const before = useRef(here);
  useEffect(() => {
    if (pack.data) document.title = `${here.charAt(0).toUpperCase()}${here.slice(1)}, ${pack.data.number} · Zero Leak`;
    if (before.current === here) return;
    before.current = here;
    step.current?.scrollTo({ top: 0 });
    step.current?.focus({ preventScroll: true });
  }, [here, pack.data]);
  if (!pack.data && pack.isError)
    return (
      <Page>
        <Note kind="stop">{sentence(pack.error)}</Note>
      </Page>
    );
  if (!pack.data)
    return (
      <Page>
        <Skeleton />
      </Page>
    );
  const p = pack.data;
  const tone = p.state_kind === "blocked" ? "text-limit" : p.state_kind === "running" ? "text-water font-semibold" : "text-soft";
  const last = p.attempts.at(-1);
  const under = last && !last.over ? last : undefined;
  const strip = !["prove", "bound"].includes(here) || Boolean(p.derived);
  return (
    <PackProvider value={p}>
      <LiveProvider
        attempt={under?.id}
        gauge={p.plan.gauge_tag ? recorded(p.plan).indexOf(p.plan.gauge_tag) : 0}
        onChanged={() => void queries.invalidateQueries({ predicate: (q) => q.queryKey[1] !== "/api/v1/session" })}
      >
        <div className="flex h-full flex-col">
          <div className="flex flex-wrap items-baseline gap-x-4 border-b border-hair px-5 py-2">
            <span className="text-lg font-bold">
              <span className="num mr-2">{p.number}</span>
              {p.title}
            </span>
            {p.form === "quick" && here !== "page" ? (
              <Link to={`/tests/${id}/page` as "/"} className="text-sm">
                all of it on one page
              </Link>
            ) : null}
            {p.plan.run === "practice" ? <strong className="text-sm text-limit">practice, never a record</strong> : null}
            <span className={`text-sm ${tone}`} data-state={p.state_kind}>
              {p.state}
            </span>
            {pack.isError ? (
              // what is on the screen stays, and so does what was typed into it
              <span role="status" className="ml-auto text-sm font-semibold text-limit">
                Not up to date: {sentence(pack.error)}
              </span>
            ) : null}
          </div>
          {p.away ? <PutAway pack={p} /> : null}
          {under?.changed_since ? (
            <Note kind="stop" live>
              {under.changed_since}
            </Note>
          ) : null}
          <Loud />
          <KeptActs attempt={last?.id} />
          <div className="grid min-h-0 flex-1 grid-cols-[184px_minmax(0,1fr)_216px] max-[1000px]:grid-cols-[minmax(0,1fr)_216px] max-[1000px]:grid-rows-[auto_minmax(0,1fr)] max-[700px]:grid-cols-[minmax(0,1fr)]">
            <Spine id={id} steps={p.spine} here={here} />
            <div className="flex min-h-0 flex-col border-x border-hair max-[1000px]:border-l-0">
              {/* can be scrolled by keys even where nothing in it takes the focus */}
              <section ref={step} aria-label="This step" tabIndex={0} className="relative min-h-0 flex-1 overflow-auto">
                <Outlet />
              </section>
              {/* where the pump runs the one next thing is the large button */}
              {/* on one page it is what the page itself puts there */}
              {here === "page" ? <div id="foot" className="max-h-[60%] shrink-0 overflow-auto" /> : null}
              {here === "raise" || here === "read" || here === "page" ? null : <NextBar id={id} steps={p.spine} here={here} />}
            </div>
            <aside aria-label="Gauge strip" className="min-h-0 overflow-hidden max-[700px]:hidden">
              {strip ? <LiveStrip pack={p} /> : null}
            </aside>
          </div>
        </div>
      </LiveProvider>
    </PackProvider>
  );
}
