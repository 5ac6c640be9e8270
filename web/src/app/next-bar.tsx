import { Link, useNavigate } from "@tanstack/react-router";
import type { Schema } from "../api/client";
import { useKey } from "../ui";

type Step = Schema["SpineStep"];

/** What to do next on a test, seen from one of its steps: here, or at another step. */
export function nextOf(steps: readonly Step[], here: string): { here: string; to?: Step; later: boolean } {
  const usable = steps.filter((s) => s.state !== "collapsed");
  const at = usable.findIndex((s) => s.step === here);
  const current = usable[at];
  const after = usable[at + 1];
  if (current && (current.state === "now" || current.state === "owes")) return { here: current.words, to: after, later: true };
  const to = (["now", "owes", "waiting"] as const).map((state) => usable.find((s) => s.state === state)).find(Boolean);
  return { here: "", to, later: false };
}

/** One line at the foot of every step with the one next thing. */
export function NextBar({ id, steps, here }: { id: string; steps: readonly Step[]; here: string }) {
  const navigate = useNavigate();
  const next = nextOf(steps, here);
  const path = next.to ? `/tests/${id}/${next.to.step}` : "";
  useKey("n", () => void navigate({ to: path as "/" }), Boolean(next.to));
  return (
    <footer
      className="flex min-h-11 shrink-0 items-center justify-between gap-4 border-t border-hair bg-sheet px-5 text-sm max-[700px]:px-3 print:hidden"
      data-next={next.to?.step ?? ""}
    >
      <span className="min-w-0 truncate">
        {next.here ? (
          <>
            <strong>Here:</strong> {next.here}
          </>
        ) : next.to ? (
          <span className="text-soft">
            <span className="capitalize">{next.to.step}</span>
            {next.to.words ? `: ${next.to.words}` : ""}
          </span>
        ) : (
          <span className="text-soft">Nothing is left to do on this test.</span>
        )}
      </span>
      {next.to ? (
        <Link to={path as "/"} className={`flex min-h-11 items-center whitespace-nowrap ${next.later ? "text-water" : "font-bold text-water"}`} aria-keyshortcuts="n">
          {next.later ? "then" : "Next:"} <span className="ml-1 capitalize">{next.to.step}</span>
          <span aria-hidden className="ml-1.5">
            ›
          </span>
        </Link>
      ) : null}
    </footer>
  );
}
