import { useState } from "react";
import { api, type Attempt } from "../api/client";
import { clockOf, zoneName } from "../api/zone";
import { Button, Problem, Section } from "../ui";
import { useBook } from "./book";

/** What a logger's file shows of the run's course: confirmed by one act, typed by nobody. */
export function FromTheFile({ attempt }: { attempt: Attempt }) {
  const seen = api.useQuery("get", "/api/v1/attempts/{attempt}/proposed", { params: { path: { attempt: attempt.id } } });
  const { book, problem, busy } = useBook(attempt.id);
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const all = seen.data ?? [];
  if (all.length === 0) return null;
  const taken = all.filter((p) => !left.has(p.at + p.kind));
  // one after the other: each presupposes the one before, and a refusal says which it is
  const confirm = async () => {
    for (const p of taken) {
      const note = p.kind === "released" ? "zero as the logger's file shows it" : "as the logger's file shows it";
      if (!(await book(p.kind, { at: p.at, note }))) break;
    }
    await seen.refetch();
  };
  return (
    <Section title="The file shows" aside={`times in ${zoneName()}`}>
      <ul className="m-0 list-none p-0" data-proposed={all.length}>
        {all.map((p) => (
          <li key={p.at + p.kind} className="border-b border-hair py-1.5">
            <label className="flex items-center gap-3">
              <input
                type="checkbox"
                className="accent-water"
                checked={!left.has(p.at + p.kind)}
                onChange={(e) => {
                  const next = new Set(left);
                  if (e.target.checked) next.delete(p.at + p.kind);
                  else next.add(p.at + p.kind);
                  setLeft(next);
                }}
              />
              <span className="num w-24">{clockOf(p.at, true)}</span>
              <span>{p.words}</span>
            </label>
          </li>
        ))}
      </ul>
      {all.some((p) => p.kind === "released") && !attempt.events.some((e) => e.kind === "look_done" && !e.place) ? (
        <p className="m-0 text-limit">
          The look at every joint is not booked yet. Take off the release, confirm the rest, book the look with its time, then confirm the release.
        </p>
      ) : null}
      <p className="m-0 text-sm text-soft">Take off what was otherwise. What you confirm is booked in your name, with the times of the file.</p>
      <Problem>{problem}</Problem>
      <div>
        <Button kind="main" disabled={busy || taken.length === 0} onClick={() => void confirm()}>
          {taken.length === 1 ? "It was so: book it" : `It was so: book these ${taken.length}`}
        </Button>
      </div>
    </Section>
  );
}
