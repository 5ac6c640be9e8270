import { offered } from "../../api/words";
import { Link, useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { http, newId, refusal, type Schema, sentence } from "../../api/client";
import { useAttempt, usePack, usePackActions } from "../../api/pack";
import { useMe } from "../../api/session";
import { useKept } from "../../api/typing";
import { howToWrite, instant, now } from "../../booking";
import { Follows } from "../../follows";
import { DayClock, PlanFields } from "../../planning";
import { Button, Field, Heading, Lead, Note, Page, Problem, Section, Select, TextInput } from "../../ui";
import { RegisterFile, RemoveItem, useRegister } from "../../registers";
import { zoneName } from "../../api/zone";

/** Who clears what stops it: a role, or of a quick test the one person who does it all. */
function clears(pack: Schema["PackView"], who: string, me: string): string {
  if (pack.form !== "quick") return `The ${who} clears it`;
  const alone = pack.acts[0]?.person;
  return alone && alone !== me ? `${alone} clears it` : "yours to clear";
}

export function Ready() {
  const pack = usePack();
  const me = useMe();
  const attempt = useAttempt();
  const shut = pack.gates.filter((g) => !g.ready);
  const withdrawn = attempt && !attempt.over ? attempt.withdrawn : null;
  const running = attempt && !attempt.over && !withdrawn;
  return (
    <Page>
      <Heading>
        {withdrawn
          ? "The release is withdrawn."
          : running
            ? `Attempt ${attempt.number} is released.`
            : shut.length === 0
              ? "Nothing stops this test."
              : shut.length === 1
                ? "One thing stops this test."
                : `${shut.length} things stop this test.`}
      </Heading>
      {withdrawn ? <Note kind="stop">{withdrawn}</Note> : null}
      <Lead>{running ? "What is tested is frozen until its pressure is released." : "Each gate is decided by the data; none is ever merely ticked."}</Lead>
      <ul className="m-0 grid list-none gap-0 p-0" aria-label="Gates">
        {pack.gates.map((g) => (
          <li key={g.rule} className="grid grid-cols-[5.5rem_1fr_auto] items-baseline gap-3 border-b border-hair py-2" data-gate={g.rule} data-ready={g.ready}>
            <span className={`text-sm font-bold ${g.ready ? "text-water" : "text-limit"}`}>{g.ready ? "clear" : "stops"}</span>
            <span className={g.ready ? "text-soft" : ""}>{g.sentence}</span>
            <span className="text-sm text-soft">
              {g.ready ? "" : clears(pack, g.who, me.sign_in)}
              {!g.ready && g.step !== "ready" ? (
                <>
                  {", "}
                  <Link to={`/tests/${pack.id}/${g.step}` as "/"} className="underline">
                    go there
                  </Link>
                </>
              ) : null}
            </span>
          </li>
        ))}
      </ul>
      <Release shut={shut.length} />
      {pack.may.practise ? <Practise /> : null}
      <div className="grid gap-6 xl:grid-cols-2">
        <Section title="Instruments, permit, people">
          <PlanFields show={["gauge", "thermometer", "permit", "people"]} />
        </Section>
        <PunchList />
        <Follows steps={["ready"]} />
        <DayClock />
      </div>
    </Page>
  );
}

/** The same test on the practice rig: a pack of its own, never a record, never this one. */
function Practise() {
  const pack = usePack();
  const navigate = useNavigate();
  const [problem, setProblem] = useState("");
  return (
    <div className="grid gap-2">
      <div className="flex items-center gap-3">
        <Button
          onClick={async () => {
            const copy = newId();
            const why = await refusal(http.PUT("/api/v1/packs/{id}/practice/{copy}", { params: { path: { id: pack.id, copy } } }));
            setProblem(why);
            if (!why) void navigate({ to: `/tests/${copy}/ready` as "/" });
          }}
        >
          Practise on a copy
        </Button>
        <span className="text-sm text-soft">On the practice rig. The copy is a pack of its own; nothing of it ever reaches this one.</span>
      </div>
      <Problem>{problem}</Problem>
    </div>
  );
}

function Release({ shut }: { shut: number }) {
  const pack = usePack();
  const attempt = useAttempt();
  const actions = usePackActions();
  const [problem, setProblem] = useState("");
  const [reason, setReason] = useState("");
  const [time, setTime] = useState("");
  if (attempt && !attempt.over && !attempt.withdrawn) return null;
  if (!pack.may.release) return <p className="m-0 text-sm text-soft">The supervisor releases this test{pack.form === "quick" ? ", or who made it" : ""}.</p>;
  const signed = Boolean(attempt?.frozen);
  return (
    <div className="grid max-w-xl gap-3">
      {signed ? (
        <Field label="Why the signed record is superseded" hint="Nothing signed is ever edited. The new record names the old one and this reason.">
          {(f) => <TextInput {...f} value={reason} onChange={(e) => setReason(e.target.value)} />}
        </Field>
      ) : null}
      <Problem>{problem}</Problem>
      <div className="flex items-end gap-4">
        <Button
          kind="main"
          size="large"
          disabled={shut > 0}
          onClick={async () => {
            const at = instant(time);
            setProblem(at ? "" : howToWrite(time));
            if (!at) return;
            try {
              await actions.release(reason, time.trim() ? at : null);
            } catch (e) {
              setProblem(sentence(e));
            }
          }}
        >
          {attempt ? `Release attempt ${attempt.number + 1}` : "Release for test"}
        </Button>
        {shut > 0 ? null : (
          <span className="w-48">
            <Field label={`Released at (${zoneName()})`}>
              {(f) => <TextInput {...f} value={time} onChange={(e) => setTime(e.target.value)} placeholder={`now, ${now().slice(0, 5)}`} />}
            </Field>
          </span>
        )}
      </div>
    </div>
  );
}

type PunchRow = Schema["PackView"]["punch"][number];
function PunchList() {
  const pack = usePack();
  const register = useRegister("punch");
  const blank = { number: "", category: "A" as const, text: "", owner: "", cleared: false };
  const [draft, setDraft, added] = useKept<Schema["Punch"]>(`punch ${pack.id}`, "an item for the punch list", blank);
  const bare = (p: PunchRow): Schema["Punch"] => ({ number: p.number, category: p.category, text: p.text, owner: p.owner, cleared: p.cleared });
  return (
    <Section title="Punch list">
      {pack.punch.length === 0 ? (
        <p className="m-0 text-sm text-soft">No item. An A item stops pressure, a B item stops handing back, a C item stops commissioning.</p>
      ) : null}
      <ul className="m-0 list-none p-0 text-sm">
        {pack.punch.map((p) => (
          <li key={p.id} className="grid grid-cols-[4rem_1fr_auto] items-center gap-3 border-b border-hair py-1.5">
            <span className="num font-semibold">
              {p.category}-{p.number}
            </span>
            <span className={p.cleared ? "text-soft line-through" : ""}>
              {p.text} <span className="text-soft no-underline">({p.owner})</span>
            </span>
            {p.cleared ? (
              <span className="text-soft">cleared, {p.marks.cleared?.by}</span>
            ) : pack.may.punch ? (
              <span className="flex items-center gap-3">
                <RemoveItem of={register} row={p} tag={`${p.category}-${p.number}`} />
                <Button onClick={() => register.change(p, { ...bare(p), cleared: true })}>Clear</Button>
              </span>
            ) : (
              <span className="text-limit">open</span>
            )}
          </li>
        ))}
      </ul>
      <Problem>{register.problem}</Problem>
      {pack.punch.length > 0 ? <RegisterFile register="punch" /> : null}
      {pack.may.punch ? (
        <form
          className="grid grid-cols-[5rem_1fr] items-end gap-3"
          onSubmit={async (e) => {
            e.preventDefault();
            if (await register.add(draft)) added();
          }}
        >
          <Field label="Number">{(f) => <TextInput {...f} value={draft.number} onChange={(e) => setDraft({ ...draft, number: e.target.value })} />}</Field>
          <Field label="What is wrong">{(f) => <TextInput {...f} value={draft.text} onChange={(e) => setDraft({ ...draft, text: e.target.value })} />}</Field>
          <div className="col-span-2 grid grid-cols-[1fr_1fr_auto] items-end gap-3">
            <Field label="Category">
              {(f) => (
                <Select {...f} options={offered("punch_category")} value={draft.category} onChange={(e) => setDraft({ ...draft, category: e.target.value as "A" })} />
              )}
            </Field>
            <Field label="Who clears it">{(f) => <TextInput {...f} value={draft.owner} onChange={(e) => setDraft({ ...draft, owner: e.target.value })} />}</Field>
            <Button type="submit">Add</Button>
          </div>
        </form>
      ) : null}
    </Section>
  );
}
