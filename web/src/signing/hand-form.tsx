import { useState } from "react";
import { fieldProblems } from "../api/problems";
import { type Schema, sentence } from "../api/client";
import { Button, Field, Problem, TextInput } from "../ui";
import { Draw } from "./draw";

interface Props {
  name: string;
  statement: string;
  label: string;
  /** True where the written name may stand for a drawing. */
  nameAlone?: boolean;
  /** Sends it; gives back what the server has against it. */
  send: (hand: Schema["Hand"]) => Promise<unknown>;
}

/** The signature of somebody without an account: name, for whom, a number, and what they draw. */
export function HandForm({ name: named, statement, label, nameAlone, send }: Props) {
  const [hand, setHand] = useState({ name: named, body: "", number: "", drawing: "" });
  const [wrong, setWrong] = useState<Record<string, string>>({});
  const [problem, setProblem] = useState("");
  const [busy, setBusy] = useState(false);
  const set = (more: Partial<typeof hand>) => setHand({ ...hand, ...more });
  return (
    <form
      className="grid max-w-xl gap-3 border border-rule bg-sheet p-4"
      noValidate
      onSubmit={async (e) => {
        e.preventDefault();
        setProblem("");
        setWrong({});
        setBusy(true);
        try {
          const error = await send(hand);
          const fields = fieldProblems(error);
          setWrong(Object.fromEntries(Object.entries(fields).map(([f, s]) => [f.split(".").at(-1) ?? f, s])));
          if (error && !Object.keys(fields).length) setProblem(sentence(error));
        } catch (e) {
          setProblem(sentence(e));
        } finally {
          setBusy(false);
        }
      }}
    >
      <p className="m-0">“{statement}”</p>
      <Field label="Name of whoever signs" error={wrong.name}>
        {(f) => <TextInput {...f} value={hand.name} onChange={(e) => set({ name: e.target.value })} maxLength={120} autoComplete="name" />}
      </Field>
      <Field label="For whom" hint="The firm, the authority, the club, or themselves." error={wrong.body}>
        {(f) => <TextInput {...f} value={hand.body} onChange={(e) => set({ body: e.target.value })} maxLength={120} autoComplete="organization" />}
      </Field>
      <Field label="Number of their appointment, badge or stamp" hint="Leave it empty where there is none." error={wrong.number}>
        {(f) => <TextInput {...f} value={hand.number} onChange={(e) => set({ number: e.target.value })} maxLength={120} />}
      </Field>
      <Draw path={hand.drawing} onChange={(drawing) => setHand((h) => ({ ...h, drawing }))} error={wrong.drawing} optional={nameAlone} />
      <Problem>{problem}</Problem>
      <div>
        <Button type="submit" kind="main" disabled={busy}>
          {label}
        </Button>
      </div>
    </form>
  );
}
