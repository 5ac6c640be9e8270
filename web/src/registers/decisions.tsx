import { useState } from "react";
import type { Schema } from "../api/client";
import { usePack } from "../api/pack";
import { useKept } from "../api/typing";
import { offeredOrNone, word } from "../api/words";
import { Button, Field, Problem, Section, Select, TextInput } from "../ui";
import { RegisterFile, RemoveItem, useRegister } from ".";

type Made = Schema["PackView"]["decisions"][number];

const body = (d: Made): Schema["Decision"] => ({ what: d.what, attempt: d.attempt, way: d.way, how: d.how, person: d.person, due: d.due, done: d.done });
const NOTHING = { what: "", way: "" as Schema["Remedy"] | "", how: "", person: "", due: "" };

/** What is decided about what leaked or stopped the test: repaired, tested again, derated or scrapped; by whom and until when. */
export function Decisions({ attempt }: { attempt: number }) {
  const pack = usePack();
  const register = useRegister("decision");
  const [typed, set, added] = useKept(`decision ${pack.id}`, "a decision", NOTHING);
  const { way, how, person, due } = typed;
  const open = pack.undecided;
  const [asked, setAsked] = useState(false);
  const shown = open.length > 0 || asked || Object.values(typed).some(Boolean);
  // where one place waits for a decision, it is about that one
  const what = typed.what || (open.length === 1 ? (open[0]?.what ?? "") : "");
  return (
    <Section title="What is decided" aside={pack.decisions.length ? <RegisterFile register="decision" /> : null}>
      {open.length ? (
        <p className="m-0 text-sm text-limit" data-undecided={open.length}>
          To decide about: {open.map((l) => (l.place ? `${l.what} (${l.place})` : l.what)).join("; ")}. No other attempt is released before.
        </p>
      ) : null}
      <ul className="m-0 list-none p-0">
        {pack.decisions.map((d) => (
          <li key={d.id} className="flex flex-wrap items-center justify-between gap-3 border-b border-hair py-2">
            <span>
              <strong>{d.what}</strong>: {word("way", d.way)}, {d.how}
              <span className="text-soft">
                {" "}
                After attempt {d.attempt}; {d.person}, until {d.due}
                {d.done ? `; done, ${d.marks.done?.by ?? ""}` : ""}
              </span>
            </span>
            {pack.may.punch ? (
              <span className="flex items-center gap-3">
                {d.done || d.way === "scrap" ? null : <Button onClick={() => void register.change(d, { ...body(d), done: true })}>It is done</Button>}
                <RemoveItem of={register} row={d} tag={d.what} />
              </span>
            ) : null}
          </li>
        ))}
      </ul>
      <Problem>{register.problem}</Problem>
      {pack.may.punch && !shown ? (
        <div>
          <Button onClick={() => setAsked(true)}>Decide about something else…</Button>
        </div>
      ) : null}
      {pack.may.punch && shown ? (
        <form
          className="grid grid-cols-2 items-start gap-3 max-[600px]:grid-cols-1"
          onSubmit={async (e) => {
            e.preventDefault();
            if (way && (await register.add({ what, attempt, way, how, person, due, done: false }))) added();
          }}
        >
          <Field label="About what" hint={open.length ? "As it is called above." : undefined}>
            {(f) => <TextInput {...f} value={what} onChange={(e) => set({ what: e.target.value })} maxLength={64} placeholder={open[0]?.what ?? "the receiver"} />}
          </Field>
          <Field label="What is done about it">
            {(f) => <Select {...f} options={offeredOrNone("way", "choose")} value={way} onChange={(e) => set({ way: e.target.value as Schema["Remedy"] })} />}
          </Field>
          <Field label="How, and why">
            {(f) => <TextInput {...f} value={how} onChange={(e) => set({ how: e.target.value })} maxLength={300} placeholder="new plug, thread chased" />}
          </Field>
          <Field label="Who does it">{(f) => <TextInput {...f} value={person} onChange={(e) => set({ person: e.target.value })} maxLength={64} />}</Field>
          <Field label="Until when">{(f) => <TextInput {...f} value={due} onChange={(e) => set({ due: e.target.value })} placeholder="2027-03-31" />}</Field>
          <div className="self-end">
            <Button type="submit" disabled={!way || !what.trim()}>
              Write it down
            </Button>
          </div>
        </form>
      ) : null}
    </Section>
  );
}
