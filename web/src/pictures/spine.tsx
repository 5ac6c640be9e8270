import { Link } from "@tanstack/react-router";
import { useState } from "react";
import type { Schema } from "../api/client";

type Step = Schema["SpineStep"];
const SAYS = { done: "done", owes: "something stands against it", now: "now", waiting: "not yet", collapsed: "nothing to do here" } as const;

/** The ten steps of a test. State by shape and word, never by colour alone. On a phone, or at twice the size, one line that opens. */
export function Spine({ id, steps, here }: { id: string; steps: Step[]; here: string }) {
  return (
    <nav
      aria-label="Steps of this test"
      className="min-h-0 overflow-auto py-3 max-[1000px]:col-span-full max-[1000px]:border-b max-[1000px]:border-hair max-[1000px]:py-0 print:hidden"
    >
      <ol className="m-0 list-none p-0 max-[1000px]:flex max-[700px]:hidden">
        {steps.map((s, i) => (
          <li key={s.step} className="relative">
            {i < steps.length - 1 ? <span aria-hidden className="absolute top-6 bottom-[-0.4rem] left-[29px] w-px bg-hair max-[1000px]:hidden" /> : null}
            <StepLink id={id} step={s} current={s.step === here} words="max-[1000px]:hidden" />
          </li>
        ))}
      </ol>
      <Folded id={id} steps={steps} here={here} />
    </nav>
  );
}

/** The step that is open, the ones before and after it, and all of them when asked. */
function Folded({ id, steps, here }: { id: string; steps: Step[]; here: string }) {
  const [open, setOpen] = useState(false);
  const at = steps.findIndex((s) => s.step === here);
  const current = steps[at];
  const usable = steps.filter((s) => s.state !== "collapsed");
  const place = usable.findIndex((s) => s.step === here);
  const to = (step: Step | undefined, sign: string, words: string) =>
    step ? (
      <Link
        to={`/tests/${id}/${step.step}` as "/"}
        aria-label={`${words}: ${step.step}`}
        className="grid min-h-11 min-w-11 place-items-center text-lg text-ink no-underline"
      >
        {sign}
      </Link>
    ) : (
      <span className="min-w-11" />
    );
  return (
    <div className="min-[701px]:hidden">
      <div className="grid grid-cols-[auto_1fr_auto] items-center">
        {to(place > 0 ? usable[place - 1] : undefined, "‹", "The step before")}
        <button
          type="button"
          aria-expanded={open}
          onClick={() => setOpen(!open)}
          className="flex min-h-11 min-w-0 items-center justify-center gap-2 border-0 bg-transparent px-1 text-ink"
          data-steps
        >
          {current ? <Mark state={current.state} /> : null}
          <span className="truncate font-bold capitalize">{current?.step ?? here}</span>
          <span className="truncate text-sm text-soft">{current ? SAYS[current.state] : ""}</span>
          <span aria-hidden>{open ? "▴" : "▾"}</span>
          <span className="sr-only">all steps</span>
        </button>
        {to(place >= 0 ? usable[place + 1] : undefined, "›", "The step after")}
      </div>
      {open ? (
        <ol className="m-0 list-none border-t border-hair p-0">
          {steps.map((s) => (
            <li key={s.step}>
              <StepLink id={id} step={s} current={s.step === here} words="" onGo={() => setOpen(false)} />
            </li>
          ))}
        </ol>
      ) : null}
    </div>
  );
}

function StepLink({ id, step: s, current, words, onGo }: { id: string; step: Step; current: boolean; words: string; onGo?: () => void }) {
  const small = s.state === "collapsed";
  return (
    <Link
      to={`/tests/${id}/${s.step}` as "/"}
      aria-current={current ? "step" : undefined}
      data-state={s.state}
      onClick={onGo}
      className={`relative grid grid-cols-[20px_1fr] gap-x-2.5 border-l-[3px] py-1.5 pr-2 pl-4 text-ink min-[701px]:max-[1000px]:gap-x-1 min-[701px]:max-[1000px]:pr-1 min-[701px]:max-[1000px]:pl-1 min-[701px]:max-[1000px]:text-sm no-underline hover:bg-sheet ${current ? "border-water bg-sheet" : "border-transparent"}`}
    >
      <Mark state={s.state} />
      <span className={`capitalize ${small ? "text-sm text-soft" : ""} ${current ? "font-bold text-water" : ""}`}>{s.step}</span>
      <span className={`col-start-2 text-xs ${words} ${s.state === "owes" ? "text-limit" : s.state === "now" ? "font-semibold text-water" : "text-soft"}`}>
        {s.state === "now" ? `now${s.words ? `: ${s.words}` : ""}` : s.words}
        <span className="sr-only">{s.state === "now" ? "" : `, ${SAYS[s.state]}`}</span>
      </span>
    </Link>
  );
}

function Mark({ state }: { state: Step["state"] }) {
  return (
    <svg aria-hidden="true" viewBox="0 0 20 20" className="mt-0.5 size-5 shrink-0 bg-paper">
      {state === "done" ? (
        <>
          <rect x="3" y="3" width="14" height="14" rx="2" className="fill-ink" />
          <path d="M6.5 10.2l2.4 2.5 4.6-5.2" className="stroke-paper" strokeWidth="2" fill="none" />
        </>
      ) : state === "owes" ? (
        <path d="M10 2.5L17.5 16.5H2.5Z" className="fill-limitwash stroke-limit" strokeWidth="1.8" />
      ) : state === "now" ? (
        <>
          <circle cx="10" cy="10" r="7" className="fill-paper stroke-water" strokeWidth="1.8" />
          <circle cx="10" cy="10" r="3.6" className="fill-water" />
        </>
      ) : state === "collapsed" ? (
        <path d="M5 10h10" className="stroke-rule" strokeWidth="2" />
      ) : (
        <rect x="3.5" y="3.5" width="13" height="13" rx="2" className="fill-paper stroke-rule" strokeWidth="1.5" />
      )}
    </svg>
  );
}
