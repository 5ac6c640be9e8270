import { useState } from "react";
import { type Attempt, http, newId, type Schema, sentence } from "../../api/client";
import { usePack, usePackActions } from "../../api/pack";
import { term, word } from "../../api/words";
import { Button, Dialog, Field, Problem, Rows, Section, TextInput } from "../../ui";
import { clockOf, dayOf, momentsAt, nextDay, zoneName } from "../../api/zone";

type Defect = Schema["FoundDefect"];
type Correction = Schema["Correction"];

/** What was found wrong with the record, and the hold's boundaries; a person may let a defect stand or move a boundary, with a reason. */
export function RecordRead({ attempt, view, defects }: { attempt: Attempt; view: Schema["HoldView"] | undefined; defects: Defect[] }) {
  const pack = usePack();
  const [asking, setAsking] = useState<{ title: string; make: (reason: string, time: number | null) => Correction; timed?: number } | null>(null);
  const clock = (s: number) => clockOf(Date.parse(attempt.released_at) + s * 1000, true);
  const may = pack.may.judge && !attempt.frozen;
  const hold = view?.hold;
  const moved = view?.moved ?? [];
  const boundary = (which: "start" | "end", at: number) => {
    const by = moved.filter((m) => m.boundary === which).at(-1);
    return (
      <tr key={which} className="border-b border-hair">
        <td className="py-1.5 pr-3 whitespace-nowrap">{which === "start" ? "hold begins" : "hold ends"}</td>
        <td className="num pr-3">{clock(at)}</td>
        <td className="pr-3 text-soft">{by ? `moved from ${clock(by.found_s)} by ${by.by}: ${by.reason}` : "found from readings and events"}</td>
        <td className="text-right">
          {may ? (
            <Act
              onClick={() =>
                setAsking({
                  title: which === "start" ? "Move the start of the hold" : "Move the end of the hold",
                  timed: at,
                  make: (reason, time) => ({ what: "move", boundary: which, found_s: by?.found_s ?? at, moved_s: time ?? at, reason }),
                })
              }
            >
              move
            </Act>
          ) : null}
        </td>
      </tr>
    );
  };
  return (
    <Section title="How the record was read" aside={defects.length ? `${defects.length} found` : "nothing amiss"}>
      <Rows columns={["what", "when", "what became of it", "correct it"]}>
        {hold ? [boundary("start", hold.start_s), boundary("end", hold.end_s)] : null}
        {defects.map((d) => (
          <tr key={`${d.kind}${d.channel ?? ""}${d.start_s}${d.overruled ?? ""}`} className="border-b border-hair align-top" data-defect={d.kind}>
            <td className="py-1.5 font-semibold text-limit">
              {word("defect", d.kind)}
              <span className="block text-xs font-normal text-soft">{d.channel ?? "every channel"}</span>
            </td>
            <td className="num py-1.5 pr-3">
              {clock(d.start_s)}
              {d.end_s > d.start_s ? <span className="block">to {clock(d.end_s)}</span> : null}
            </td>
            <td className="py-1.5 text-soft">
              {d.overruled ? `let stand: ${d.overruled}` : `${d.readings > 1 ? `${d.readings} readings: ` : ""}${term("defect", d.kind).more}`}
            </td>
            <td className="py-1.5 text-right">
              {may && !d.overruled && d.kind !== "gap" ? (
                <Act
                  onClick={() =>
                    setAsking({
                      title: `Let it stand: ${word("defect", d.kind)}`,
                      make: (reason) => ({ what: "overrule", kind: d.kind, channel: d.channel ?? null, start_s: d.start_s, reason }),
                    })
                  }
                >
                  let it stand
                </Act>
              ) : null}
            </td>
          </tr>
        ))}
      </Rows>
      {view?.stretches.length ? (
        <div className="mt-3 text-sm text-soft">
          The run, from readings and events
          <ul className="m-0 mt-1 grid list-none grid-cols-[auto_1fr_auto] gap-x-3 p-0">
            {view.stretches.map((s, i) => {
              const by = s.found_start_s == null ? undefined : moved.filter((m) => m.boundary === "between" && m.found_s === s.found_start_s).at(-1);
              const ofHold = s.kind === "hold" || view.stretches[i - 1]?.kind === "hold";
              return (
                <li key={`${s.kind}${s.start_s}`} className={`col-span-3 grid grid-cols-subgrid ${s.kind === "hold" ? "text-ink" : ""}`}>
                  <span className="num">
                    {clock(s.start_s).slice(0, 5)} to {clock(s.end_s).slice(0, 5)}
                  </span>
                  <span>{word("stretch", s.kind)}</span>
                  {may && i > 0 && !ofHold ? (
                    <Act
                      label={`move where ${word("stretch", s.kind)} begins, ${clock(s.start_s)}`}
                      onClick={() =>
                        setAsking({
                          title: `Move where ${word("stretch", s.kind)} begins`,
                          timed: s.start_s,
                          make: (reason, time) => ({ what: "move", boundary: "between", found_s: s.found_start_s ?? s.start_s, moved_s: time ?? s.start_s, reason }),
                        })
                      }
                    >
                      move
                    </Act>
                  ) : null}
                  {by ? (
                    <span className="col-span-3 text-xs">
                      begins where moved from {clock(by.found_s)} by {by.by}: {by.reason}
                    </span>
                  ) : null}
                </li>
              );
            })}
          </ul>
        </div>
      ) : null}
      {asking ? <Ask attempt={attempt} {...asking} onClose={() => setAsking(null)} /> : null}
    </Section>
  );
}

function Act({ onClick, label, children }: { onClick: () => void; label?: string; children: string }) {
  return (
    <button
      type="button"
      className="border-0 bg-transparent p-0 text-sm whitespace-nowrap text-water underline hover:text-ink"
      onClick={onClick}
      aria-haspopup="dialog"
      aria-label={label}
    >
      {children}
    </button>
  );
}

/** Seconds from the release of a time of day as the project's clock shows it; none when it is no time. */
function secondsOf(text: string, releasedAt: string, near: number): number | null {
  const m = /^(\d{1,2}):(\d{2})(?::(\d{2}))?$/.exec(text.trim());
  if (!m?.[1]) return null;
  const [h, min, sec] = [Number(m[1]), Number(m[2]), Number(m[3] ?? 0)];
  if (h > 23 || min > 59 || sec > 59) return null;
  const zero = Date.parse(releasedAt);
  const about = zero + near * 1000;
  const days = [-1, 0, 1].map((by) => nextDay(dayOf(about), by));
  const moments = days.flatMap((day) => momentsAt(day, h * 3600 + min * 60 + sec));
  // of the days about it, and of an hour that comes twice, the one nearest to where the boundary stands
  const at = moments.reduce((best, one) => (Math.abs(one - about) < Math.abs(best - about) ? one : best), moments[0] ?? Number.NaN);
  return Number.isNaN(at) ? null : (at - zero) / 1000;
}

function Ask({
  attempt,
  title,
  make,
  timed,
  onClose,
}: {
  attempt: Attempt;
  title: string;
  make: (reason: string, time: number | null) => Correction;
  timed?: number;
  onClose: () => void;
}) {
  const { refresh } = usePackActions();
  const [reason, setReason] = useState("");
  const [time, setTime] = useState(timed === undefined ? "" : clockOf(Date.parse(attempt.released_at) + timed * 1000, true));
  const [wrong, setWrong] = useState<{ time?: string; reason?: string; all?: string }>({});
  const [id] = useState(newId);
  const [busy, setBusy] = useState(false);
  return (
    <Dialog open onOpenChange={(o) => !o && onClose()} title={title} description="The record keeps what was found, what you make of it, and why.">
      <form
        className="grid gap-4"
        onSubmit={async (e) => {
          e.preventDefault();
          const at = timed === undefined ? null : secondsOf(time, attempt.released_at, timed);
          const missing = {
            time: timed !== undefined && at === null ? "Write a time of day, for instance 10:45:00." : undefined,
            reason: reason.trim() ? undefined : "Say why, in a few words.",
          };
          setWrong(missing);
          if (missing.time || missing.reason) return;
          setBusy(true);
          try {
            const { error } = await http.PUT("/api/v1/attempts/{attempt}/corrections/{correction}", {
              params: { path: { attempt: attempt.id, correction: id } },
              body: make(reason.trim(), at),
            });
            if (error) return setWrong({ all: sentence(error) });
            await refresh();
            onClose();
          } catch (problem) {
            setWrong({ all: sentence(problem) });
          } finally {
            setBusy(false);
          }
        }}
      >
        {timed === undefined ? null : (
          <Field label={`To (${zoneName()})`} error={wrong.time}>
            {(f) => <TextInput {...f} value={time} onChange={(e) => setTime(e.target.value)} />}
          </Field>
        )}
        <Field label="Why" error={wrong.reason}>
          {(f) => <TextInput {...f} value={reason} onChange={(e) => setReason(e.target.value)} placeholder="the second gauge read the same" />}
        </Field>
        <Problem>{wrong.all ?? ""}</Problem>
        <div className="flex gap-3">
          <Button type="submit" kind="main" disabled={busy}>
            Book it
          </Button>
          <Button onClick={onClose}>Leave it</Button>
        </div>
      </form>
    </Dialog>
  );
}
