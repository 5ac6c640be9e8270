import { useQueryClient } from "@tanstack/react-query";
import { Link, Navigate, useNavigate, useRouterState } from "@tanstack/react-router";
import { type ReactNode, useEffect, useState } from "react";
import { http, setToken } from "../api/client";
import { useNews } from "../api/news";
import { chooseProject, useChosen } from "../api/project";
import { useMe } from "../api/session";
import { Dialog, THEMES, type Theme, useKey, useKeysOn, useTheme } from "../ui";
import { Find } from "./find";
import { Silence } from "./silence";
import { Leaving } from "./leaving";
import { CHOICES, SYMBOL, type Unit, UNITS, useChoice, useFigures } from "../units";

const KEYS: readonly (readonly [string, string])[] = [
  ["t", "Today"],
  ["p", "Packs"],
  ["/", "find a test, a blind or a gauge"],
  ["u", "next unit of pressure"],
  ["n", "the next thing to do (on a test)"],
  ["[ and ]", "step before, step after (on a test)"],
  ["r", "type a reading (on Raise and Hold)"],
  ["l", "note a leak (on Raise and Hold)"],
  ["s", "stop: release pressure (on Raise; asks first)"],
  ["?", "this list"],
];

export function Shell({ children }: { children: ReactNode }) {
  const me = useMe();
  const navigate = useNavigate();
  const [help, setHelp] = useState(false);
  const [find, setFind] = useState(false);
  const [keysOn, setKeysOn] = useKeysOn();
  const [theme, setTheme] = useTheme();
  const units = useChoice();
  const show = useFigures();
  useNews(!me.owes_factor);
  useTitle(me.site);
  useKey("?", () => setHelp(true));
  useKey("/", () => setFind(true));
  useKey("u", () => units.next(show.unit));
  useKey("t", () => void navigate({ to: "/" }));
  useKey("p", () => void navigate({ to: "/packs" }));
  return (
    <div className="flex h-dvh min-w-0 flex-col">
      <a href="#main" className="sr-only focus:not-sr-only focus:absolute focus:bg-sheet focus:p-2">
        To the content
      </a>
      <header className="flex min-h-12 shrink-0 flex-wrap items-center gap-x-6 border-b border-hair bg-sheet px-5 max-[700px]:px-3">
        <span className="font-bold whitespace-nowrap">
          <span className="mr-2 text-sm font-semibold text-water">Zero Leak</span>
          {me.site}
        </span>
        <nav aria-label="Views" className="flex gap-1 text-sm">
          {me.owes_factor ? null : me.administrator ? <AdministratorTabs /> : <TestTabs />}
        </nav>
        <div className="ml-auto flex items-center gap-4 text-sm text-soft max-[700px]:[&>*:not([data-phone])]:hidden">
          <ProjectChoice />
          <label className="flex items-center gap-1.5">
            <span className="max-[1000px]:sr-only">Pressure in</span>
            <select
              className="rounded-[3px] border border-hair bg-sheet px-1 py-0.5 text-ink"
              value={show.unit}
              onChange={(e) => units.choose({ pressure: e.target.value as Unit })}
              aria-label="Unit of pressure"
              title="u"
            >
              {UNITS.map((u) => (
                <option key={u} value={u}>
                  {SYMBOL[u]}
                </option>
              ))}
            </select>
          </label>
          <OtherUnits />
          <select
            className="rounded-[3px] border border-hair bg-sheet px-1 py-0.5 text-ink"
            value={theme}
            onChange={(e) => setTheme(e.target.value as Theme)}
            aria-label="Light of the screen"
          >
            {THEMES.map((t) => (
              <option key={t} value={t}>
                {t}
              </option>
            ))}
          </select>
          <button data-phone type="button" className="border-0 bg-transparent p-1 text-soft hover:text-ink" onClick={() => setFind(true)}>
            Find<span className="max-[700px]:hidden"> (/)</span>
          </button>
          <button type="button" className="border-0 bg-transparent p-1 text-soft hover:text-ink max-[1000px]:hidden" onClick={() => setHelp(true)}>
            Keys (?)
          </button>
          <span className="whitespace-nowrap" data-phone>
            <Link to={"/account" as "/"} className="text-soft hover:text-ink" aria-label={`Your account: ${me.sign_in}`}>
              {me.sign_in}
            </Link>{" "}
            · <SignOut />
          </span>
        </div>
      </header>
      {me.clock_by_hand ? (
        <p className="m-0 bg-limitwash px-5 py-1 text-sm font-semibold" data-training>
          Training installation: its clock is set by hand. Nothing here is a real test.
        </p>
      ) : null}
      {me.clock_rate > 1 ? (
        <p className="m-0 bg-limitwash px-5 py-1 text-sm font-semibold" data-training>
          Training installation: its clock runs {me.clock_rate} times as fast. Nothing here is a real test.
        </p>
      ) : null}
      <Silence />
      <main id="main" tabIndex={0} className="relative min-h-0 flex-1 overflow-auto">
        {me.owes_factor ? <Owing>{children}</Owing> : children}
      </main>
      <Leaving />
      <Find open={find} onOpenChange={setFind} />
      <Dialog open={help} onOpenChange={setHelp} title="Keys">
        <table className="w-full text-sm">
          <thead className="sr-only">
            <tr>
              <th scope="col">key</th>
              <th scope="col">what it does</th>
            </tr>
          </thead>
          <tbody>
            {KEYS.map(([key, what]) => (
              <tr key={key} className="border-b border-hair">
                <td className="num w-28 py-1.5 font-semibold">{key}</td>
                <td>{what}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <label className="mt-4 flex items-center gap-2 text-sm">
          <input type="checkbox" checked={keysOn} onChange={(e) => setKeysOn(e.target.checked)} className="accent-water" /> Single keys act
        </label>
      </Dialog>
    </div>
  );
}

const TITLES: readonly (readonly [string, string])[] = [
  ["/packs/new", "Add a pack"],
  ["/packs", "Packs"],
  ["/quick", "Quick test"],
  ["/instruments", "Instruments"],
  ["/specification", "Project"],
  ["/library", "Library"],
  ["/people", "People"],
  ["/account", "Account"],
  ["/security", "Security log"],
];

/** The window is called after its page; a test names itself. */
function useTitle(site: string) {
  const path = useRouterState({ select: (s) => s.location.pathname });
  useEffect(() => {
    if (path.startsWith("/tests/")) return;
    const title = path === "/" ? "Today" : TITLES.find(([begins]) => path.startsWith(begins))?.[1];
    document.title = `${title ?? site} · Zero Leak`;
    document.getElementById("main")?.scrollTo({ top: 0 });
  }, [path, site]);
}

/** Of which project lists are, for whoever has a part in more than one. */
function ProjectChoice() {
  const { projects } = useMe();
  const project = useChosen();
  if (projects.length < 2) return null;
  return (
    <select
      data-phone
      className="max-w-48 max-[700px]:max-w-32 rounded-[3px] border border-hair bg-sheet px-1 py-0.5 text-sm text-ink"
      value={project?.id ?? ""}
      onChange={(e) => chooseProject(e.target.value)}
      aria-label="Project"
    >
      <option value="">all my projects</option>
      {projects.map((p) => (
        <option key={p.id} value={p.id}>
          {p.name}
        </option>
      ))}
    </select>
  );
}

function AdministratorTabs() {
  return (
    <>
      <Tab to="/people">People</Tab>
      <Tab to="/security">Security log</Tab>
    </>
  );
}

function TestTabs() {
  return (
    <>
      <Tab to="/">Today</Tab>
      <Tab to="/packs">Packs</Tab>
      <Tab to="/instruments">Instruments</Tab>
      <Tab to="/specification">Project</Tab>
      <Tab to="/library">Library</Tab>
    </>
  );
}

function Tab({ to, children }: { to: string; children: ReactNode }) {
  const path = useRouterState({ select: (s) => s.location.pathname });
  const here = to === "/" ? path === "/" : path.startsWith(to) || (to === "/packs" && (path.startsWith("/tests") || path.startsWith("/quick")));
  return (
    <Link
      to={to as "/"}
      aria-current={here ? "page" : undefined}
      className={`border-b-2 px-3 py-1.5 no-underline ${here ? "border-water font-semibold text-ink" : "border-transparent text-soft hover:text-ink"}`}
    >
      {children}
    </Link>
  );
}

/** Whoever owes a second factor sets it up; nothing else is open to them. */
function Owing({ children }: { children: ReactNode }) {
  const path = useRouterState({ select: (s) => s.location.pathname });
  return path === "/account" ? children : <Navigate to={"/account" as "/"} replace />;
}

function SignOut() {
  const queries = useQueryClient();
  return (
    <button
      type="button"
      className="border-0 bg-transparent p-1 text-soft underline hover:text-ink"
      onClick={async () => {
        await http.DELETE("/api/v1/session");
        setToken("");
        queries.clear();
        location.assign("/");
      }}
    >
      sign out
    </button>
  );
}

/** Temperatures, lengths and volumes: one choice each, kept on this device. */
function OtherUnits() {
  const { rest, choose } = useChoice();
  return (
    <details className="relative">
      <summary className="cursor-pointer whitespace-nowrap" data-units>
        {CHOICES.temperature.find(([v]) => v === rest.temperature)?.[1]}, {CHOICES.length.find(([v]) => v === rest.length)?.[1].split(",")[0]}
      </summary>
      <div className="absolute right-0 z-20 mt-2 grid w-64 gap-3 border border-rule bg-sheet p-4 text-ink">
        {(
          [
            ["temperature", "Temperatures in"],
            ["length", "Lengths and sizes in"],
            ["volume", "Volumes and flows in"],
          ] as const
        ).map(([key, label]) => (
          <label key={key} className="flex items-center justify-between gap-3">
            {label}
            <select className="rounded-[3px] border border-hair bg-sheet px-1 py-0.5" value={rest[key]} onChange={(e) => choose({ [key]: e.target.value })}>
              {CHOICES[key].map(([value, words]) => (
                <option key={value} value={value}>
                  {words}
                </option>
              ))}
            </select>
          </label>
        ))}
        <p className="m-0 text-xs text-soft">Weights and forces follow the lengths. A report keeps the units in which it was sealed.</p>
      </div>
    </details>
  );
}
