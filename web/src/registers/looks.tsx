import { useState } from "react";
import { siteNow } from "../api/clock";
import { http, newId, refusal, type Schema } from "../api/client";
import { perform } from "../api/outbox";
import { usePack, usePackActions } from "../api/pack";
import { useKept } from "../api/typing";
import { offered, offeredOrNone, word } from "../api/words";
import { clockOf } from "../api/zone";
import { Button, Dialog, Field, HeadRow, Problem, Section, Select, TextInput, Wide } from "../ui";
import { RegisterFile, RemoveItem, useRegister } from ".";

type Look = Schema["PackView"]["looks"][number];
type Found = Schema["LookFound"];

/** What was altered is looked at first; what is fitted for the test does not speak for the object. */
const ORDER: Schema["LookKind"][] = ["altered", "original", "temporary"];

/** What must be looked at, place by place, and what was found in this attempt. */
export function LookList({ attempt, may }: { attempt: { id: string; number: number; frozen: boolean } | undefined; may: { book: boolean; change: boolean } }) {
  const pack = usePack();
  const { refresh } = usePackActions();
  const register = useRegister("look");
  const [problem, setProblem] = useState("");
  const [closing, setClosing] = useState(false);
  const [one, setOne] = useState<Look | null>(null);
  const number = attempt?.number ?? 0;
  const closed = (l: Look) => l.looked && l.attempt === number;
  const places = [...pack.looks].sort((a, b) => ORDER.indexOf(a.kind) - ORDER.indexOf(b.kind));
  const counting = places.filter((l) => l.kind !== "temporary");
  const open = places.filter((l) => !closed(l));
  const change = may.change && !attempt?.frozen;
  const make = async () => {
    const why = await refusal(http.PUT("/api/v1/packs/{id}/looks", { params: { path: { id: pack.id } } }));
    setProblem(why);
    if (!why) await refresh();
  };
  if (!pack.looks.length)
    return (
      <Section title="What must be looked at">
        <p className="m-0 text-sm text-soft">
          No list was made yet. It begins with the places of such an object, what was altered, every part, and what is fitted for the test.
        </p>
        <Problem>{problem}</Problem>
        {change ? (
          <div>
            <Button onClick={() => void make()}>Make the list</Button>
          </div>
        ) : null}
      </Section>
    );
  const dry = counting.filter((l) => closed(l) && l.found === "dry").length;
  return (
    <Section title="What must be looked at" aside={<RegisterFile register="look" />}>
      <p className={`m-0 text-sm ${open.length ? "text-limit" : ""}`} data-looks={open.length}>
        {`${dry} of ${counting.length} places of the object dry`}
        {open.length ? `; ${open.length} not yet looked at in this attempt.` : "; every place is closed."}
      </p>
      {may.book && attempt && open.length ? (
        <div>
          <Button kind="main" onClick={() => setClosing(true)}>
            All dry, except…
          </Button>
        </div>
      ) : null}
      <Wide label="Places to look at">
        <table className="w-full border-collapse text-sm">
          <HeadRow columns={["place", "found", "who", ""]} />
          <tbody>
            {places.map((l) => (
              <tr key={l.id} className="border-b border-hair" data-place={l.what}>
                <td className="py-1.5 pr-4">
                  {l.what}
                  {l.kind === "original" ? null : <span className="text-soft">, {word("look_kind", l.kind)}</span>}
                </td>
                <td className={`pr-4 ${closed(l) ? (l.found === "leaks" ? "font-semibold text-danger" : "") : "text-limit"}`}>
                  {closed(l) ? word("look_found", l.found) : "not yet looked at"}
                  {closed(l) && l.where ? `: ${l.where}` : ""}
                  {!closed(l) && l.looked ? (
                    <span className="block text-soft">
                      attempt {l.attempt}: {word("look_found", l.found)}
                      {l.where ? `, ${l.where}` : ""}
                    </span>
                  ) : null}
                </td>
                <td className="pr-4 text-soft">{closed(l) && l.marks.looked ? `${l.marks.looked.by}, ${clockOf(l.marks.looked.at_us / 1000)}` : ""}</td>
                <td className="text-right whitespace-nowrap">
                  {change && attempt ? (
                    <button type="button" className="mr-3 min-h-6 border-0 bg-transparent p-0 text-sm text-water underline" onClick={() => setOne(l)}>
                      {closed(l) ? "change" : "close"}
                      <span className="sr-only"> {l.what}</span>…
                    </button>
                  ) : null}
                  {change ? <RemoveItem of={register} row={l} tag={l.what} /> : null}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </Wide>
      {change ? <AddPlace of={register} /> : null}
      {attempt && one ? <Found key={one.id} attempt={attempt.id} places={[one]} only onClose={() => setOne(null)} /> : null}
      {attempt && closing ? <Found attempt={attempt.id} places={open} onClose={() => setClosing(false)} /> : null}
    </Section>
  );
}

const NO_PLACE = { what: "", kind: "original" as Schema["LookKind"] };

function AddPlace({ of }: { of: ReturnType<typeof useRegister> }) {
  const pack = usePack();
  const [{ what, kind }, set, added] = useKept(`look ${pack.id}`, "a place to look at", NO_PLACE);
  return (
    <form
      className="flex flex-wrap items-end gap-3"
      onSubmit={async (e) => {
        e.preventDefault();
        if (await of.add({ what, kind, found: "open", where: "", attempt: 0, looked: false })) added();
      }}
    >
      <Field label="Another place">
        {(f) => <TextInput {...f} value={what} onChange={(e) => set({ what: e.target.value })} maxLength={64} placeholder="plug 4, front tube plate" />}
      </Field>
      <Field label="What it is">
        {(f) => <Select {...f} options={offered("look_kind")} value={kind} onChange={(e) => set({ kind: e.target.value as Schema["LookKind"] })} />}
      </Field>
      <Button type="submit" disabled={!what.trim()}>
        Add it
      </Button>
      <Problem>{of.problem}</Problem>
    </form>
  );
}

interface Exception {
  found: "leaks" | "not_seen" | "";
  place: string;
  class: Schema["LeakPlace"] | "";
  event: string;
}
const DRY: Exception = { found: "", place: "", class: "", event: "" };

interface FoundProps {
  attempt: string;
  places: Look[];
  /** Only these places, not all that are open. */
  only?: boolean;
}

/** What was found: every open place is dry, but for those that are named; or one place by itself. One act. */
function Found({ onClose, ...of }: FoundProps & { onClose: () => void }) {
  return (
    <Dialog
      open
      onOpenChange={(o) => !o && onClose()}
      title={of.only ? `What was found: ${of.places[0]?.what ?? ""}` : "All dry, except…"}
      description={
        of.only
          ? "Under pressure, and under your name. A leak says where, and what kind of place it is."
          : "For somebody who has just walked along all of it, under pressure. Name what leaks and what could not be seen; everything else is booked as dry, under your name."
      }
    >
      <FoundForm {...of} onDone={onClose} onLeave={onClose} />
    </Dialog>
  );
}

/** Every place with what was found there, dry where nothing else is said, and the one act that books all of it. */
export function FoundForm({ attempt, places, only, onDone, onLeave }: FoundProps & { onDone?: () => void; onLeave?: () => void }) {
  const { refresh } = usePackActions();
  const [typed, setTyped, booked] = useKept<{ except: Record<string, Exception> }>(`dry ${attempt} ${only ? places[0]?.id : ""}`, "what was found at the look", {
    except: {},
  });
  const [problem, setProblem] = useState("");
  const [sent, setSent] = useState({ id: newId(), at: "" });
  const of = (l: Look) => typed.except[l.id] ?? DRY;
  const set = (l: Look, more: Partial<Exception>) => setTyped({ except: { ...typed.except, [l.id]: { ...of(l), event: of(l).event || newId(), ...more } } });
  const named = places.filter((l) => of(l).found);
  const missing = named.filter((l) => !of(l).place.trim() || (of(l).found === "leaks" && l.kind !== "temporary" && !of(l).class));
  return (
    <form
      className="grid gap-4"
      onSubmit={async (e) => {
        e.preventDefault();
        if (missing.length) {
          setProblem(`Say where, for each that is named: ${missing.map((l) => l.what).join("; ")}.`);
          return;
        }
        // tapped again it has the same id and time, so it is booked once
        const at = sent.at || new Date(siteNow()).toISOString();
        setSent({ ...sent, at });
        const except = named.map((l) => ({ item: l.id, found: of(l).found as Found, place: of(l).place, class: of(l).class || null, event: of(l).event }));
        const body = { at, except, note: "", only: only ? places.map((l) => l.id) : null };
        const { why } = await perform([{ id: sent.id, attempt, at, words: "what was found at the look", does: { is: "looks", body } }]);
        setProblem(why);
        if (why) {
          setSent({ id: sent.id, at: "" });
          return;
        }
        booked();
        setSent({ id: newId(), at: "" });
        await refresh();
        onDone?.();
      }}
    >
      <ul className={`m-0 grid list-none gap-2 p-0 ${onLeave ? "max-h-[50vh] overflow-y-auto" : ""}`}>
        {places.map((l) => (
          <li key={l.id} className="grid gap-2 border-b border-hair pb-2">
            <div className="flex flex-wrap items-center justify-between gap-2">
              <span>{l.what}</span>
              <div className="w-44">
                <Select
                  aria-label={`Found: ${l.what}`}
                  value={of(l).found}
                  onChange={(e) => set(l, { found: e.target.value as Exception["found"] })}
                  options={[
                    ["", word("look_found", "dry")],
                    ["leaks", word("look_found", "leaks")],
                    ["not_seen", word("look_found", "not_seen")],
                  ]}
                />
              </div>
            </div>
            {of(l).found ? (
              <div className="flex flex-wrap gap-3">
                <TextInput
                  aria-label={of(l).found === "leaks" ? `Where it leaks: ${l.what}` : `Why it could not be seen: ${l.what}`}
                  placeholder={of(l).found === "leaks" ? "where it leaks" : "why not, and what stands in for it"}
                  value={of(l).place}
                  onChange={(e) => set(l, { place: e.target.value })}
                  maxLength={200}
                />
                {of(l).found === "leaks" && l.kind !== "temporary" ? (
                  <Select
                    aria-label={`What kind of place: ${l.what}`}
                    options={offeredOrNone("leak_place", "what kind of place")}
                    value={of(l).class}
                    onChange={(e) => set(l, { class: e.target.value as Schema["LeakPlace"] })}
                  />
                ) : null}
              </div>
            ) : null}
          </li>
        ))}
      </ul>
      <Problem>{problem}</Problem>
      <div className="flex flex-wrap gap-3">
        <Button type="submit" kind="main" size={onLeave ? "normal" : "large"}>
          {only
            ? "Book it"
            : named.length
              ? `${places.length - named.length} dry, ${named.length} not: book it`
              : places.length === 1
                ? "It is dry: book it"
                : `All ${places.length} dry: book it`}
        </Button>
        {onLeave ? <Button onClick={onLeave}>Leave it</Button> : null}
      </div>
    </form>
  );
}
