import { useState } from "react";
import type { Schema } from "../api/client";
import { usePack } from "../api/pack";
import { useKept } from "../api/typing";
import { offered, term, word } from "../api/words";
import { Button, Dialog, Field, Problem, Section, Select, TextInput } from "../ui";
import { RegisterFile, RemoveItem, useRegister } from ".";

type Owed = Schema["PackView"]["promises"][number];

const body = (p: Owed): Schema["StillOwed"] => ({ what: p.what, kind: p.kind, person: p.person, due: p.due, figure: p.figure, carried: p.carried, done: p.done });
const NOTHING = { what: "", kind: "inside_look" as Schema["OwedKind"], person: "", due: "" };

/** What was promised for after the test: done, or carried over by name. */
export function Promises() {
  const pack = usePack();
  const register = useRegister("promise");
  const [{ what, kind, person, due }, set, added] = useKept(`promise ${pack.id}`, "something that is owed", NOTHING);
  const [done, setDone] = useState<Owed | null>(null);
  const left = pack.promises.filter((p) => !p.done).length;
  return (
    <Section title="What is still owed" aside={pack.promises.length ? <RegisterFile register="promise" /> : null}>
      <p className="m-0 text-sm text-soft">
        A look inside, drying, a steam test, gaskets, temporary supports: done before anybody signs, or carried over by name. The pack is closed once all of it is done.
      </p>
      <ul className="m-0 list-none p-0" data-owed={left}>
        {pack.promises.map((p) => (
          <li key={p.id} className="flex flex-wrap items-center justify-between gap-3 border-b border-hair py-2">
            <span>
              <span className={`mr-3 text-sm font-bold ${p.done ? "text-water" : "text-limit"}`}>{p.done ? "done" : p.carried ? "carried over" : "open"}</span>
              {word("promise_kind", p.kind)}: {p.what}
              <span className="text-soft">
                ; {p.person}, until {p.due}
                {p.figure ? `. ${p.figure}` : ""}
              </span>
            </span>
            {pack.may.punch && !p.done ? (
              <span className="flex flex-wrap items-center gap-3">
                <Button onClick={() => setDone(p)}>It is done…</Button>
                {p.carried ? null : <Button onClick={() => void register.change(p, { ...body(p), carried: true })}>Carry it over</Button>}
                <RemoveItem of={register} row={p} tag={p.what} />
              </span>
            ) : null}
          </li>
        ))}
      </ul>
      <Problem>{register.problem}</Problem>
      {pack.may.punch ? (
        <form
          className="grid grid-cols-[1fr_1fr_1fr_9rem_auto] items-end gap-3 max-[900px]:grid-cols-2 max-[500px]:grid-cols-1"
          onSubmit={async (e) => {
            e.preventDefault();
            if (await register.add({ what, kind, person, due, figure: "", carried: false, done: false })) added();
          }}
        >
          <Field label="What kind">
            {(f) => <Select {...f} options={offered("promise_kind")} value={kind} onChange={(e) => set({ kind: e.target.value as Schema["OwedKind"] })} />}
          </Field>
          <Field label="Of what">{(f) => <TextInput {...f} value={what} onChange={(e) => set({ what: e.target.value })} maxLength={64} placeholder="the shell" />}</Field>
          <Field label="Who does it">
            {(f) => <TextInput {...f} value={person} onChange={(e) => set({ person: e.target.value })} maxLength={64} placeholder="inspector" />}
          </Field>
          <Field label="Until when">{(f) => <TextInput {...f} value={due} onChange={(e) => set({ due: e.target.value })} placeholder="2027-03-31" />}</Field>
          <Button type="submit">Add it</Button>
        </form>
      ) : null}
      {done ? <DoneDialog owed={done} of={register} onClose={() => setDone(null)} /> : null}
    </Section>
  );
}

function DoneDialog({ owed, of, onClose }: { owed: Owed; of: ReturnType<typeof useRegister>; onClose: () => void }) {
  const [figure, setFigure] = useState("");
  const asks = term("promise_kind", owed.kind).more;
  return (
    <Dialog
      open
      onOpenChange={(o) => !o && onClose()}
      title={`Is it done: ${owed.what}?`}
      description={`${word("promise_kind", owed.kind)}. It stays with your name and the time.`}
    >
      <form
        className="grid gap-4"
        onSubmit={async (e) => {
          e.preventDefault();
          if (await of.change(owed, { ...body(owed), figure, done: true })) onClose();
        }}
      >
        <Field label="What was read or found" hint={asks && asks !== word("promise_kind", owed.kind) ? asks : "For a look, a test or drying it is asked."}>
          {(f) => <TextInput {...f} value={figure} onChange={(e) => setFigure(e.target.value)} maxLength={200} />}
        </Field>
        <Problem>{of.problem}</Problem>
        <div className="flex gap-3">
          <Button type="submit" kind="main">
            It is done
          </Button>
          <Button onClick={onClose}>Leave it</Button>
        </div>
      </form>
    </Dialog>
  );
}
