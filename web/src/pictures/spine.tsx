import { Link } from "@tanstack/react-router";
import type { Schema } from "../api/client";

type Step = Schema["SpineStep"];
const SAYS = { done: "done", owes: "something is owed", waiting: "not yet", collapsed: "nothing to do here" } as const;

/** The ten steps of a test. State by shape and word, never by colour alone. */
export function Spine({ id, steps, here }: { id: string; steps: Step[]; here: string }) {
  return (
    <nav
      aria-label="Steps of this test"
      className="min-h-0 overflow-auto py-3 max-[1000px]:col-span-full max-[1000px]:border-b max-[1000px]:border-hair max-[1000px]:py-0"
    >
      <ol className="m-0 list-none p-0 max-[1000px]:flex">
        {steps.map((s, i) => {
          const current = s.step === here;
          const small = s.state === "collapsed";
          return (
            <li key={s.step} className={`relative ${current ? "" : "max-[700px]:hidden"}`}>
              {i < steps.length - 1 ? <span aria-hidden className="absolute top-6 bottom-[-0.4rem] left-[29px] w-px bg-hair max-[1000px]:hidden" /> : null}
              <Link
                to={`/tests/${id}/${s.step}` as "/"}
                aria-current={current ? "step" : undefined}
                data-state={s.state}
                className={`relative grid grid-cols-[20px_1fr] gap-x-2.5 border-l-[3px] py-1.5 pr-2 pl-4 text-ink no-underline hover:bg-sheet ${current ? "border-water bg-sheet" : "border-transparent"}`}
              >
                <Mark state={s.state} />
                <span className={`capitalize ${small ? "text-sm text-soft" : ""} ${current ? "font-bold text-water" : ""}`}>{s.step}</span>
                <span className={`col-start-2 text-xs max-[1000px]:hidden ${s.state === "owes" ? "text-limit" : "text-soft"}`}>
                  {s.words}
                  <span className="sr-only">, {SAYS[s.state]}</span>
                </span>
              </Link>
            </li>
          );
        })}
      </ol>
    </nav>
  );
}

function Mark({ state }: { state: Step["state"] }) {
  return (
    <svg aria-hidden="true" viewBox="0 0 20 20" className="mt-0.5 size-5 bg-paper">
      {state === "done" ? (
        <>
          <rect x="3" y="3" width="14" height="14" rx="2" className="fill-ink" />
          <path d="M6.5 10.2l2.4 2.5 4.6-5.2" className="stroke-paper" strokeWidth="2" fill="none" />
        </>
      ) : state === "owes" ? (
        <path d="M10 2.5L17.5 16.5H2.5Z" className="fill-limitwash stroke-limit" strokeWidth="1.8" />
      ) : state === "collapsed" ? (
        <path d="M5 10h10" className="stroke-rule" strokeWidth="2" />
      ) : (
        <rect x="3.5" y="3.5" width="13" height="13" rx="2" className="fill-paper stroke-rule" strokeWidth="1.5" />
      )}
    </svg>
  );
}
