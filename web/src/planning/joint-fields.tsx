import { useId, useState } from "react";
import type { Schema } from "../api/client";
import { usePack } from "../api/pack";
import { Button, Field, TextInput } from "../ui";
import { usePlanDraft } from "./draft";
import { DraftForm } from "./draft-form";

type Joint = Schema["Joint"];

/** How the parts are joined, and where a blind can go between two of them: a split is cut only there. */
export function JointFields() {
  const pack = usePack();
  const draft = usePlanDraft("the joints");
  const list = useId();
  const [a, setA] = useState("");
  const [b, setB] = useState("");
  const joints: Joint[] = draft.draft.joints ?? [];
  const tags = pack.rows.map((r) => r.typed.tag ?? "");
  const good = a !== b && tags.includes(a) && tags.includes(b) && !joints.some((j) => (j.a === a && j.b === b) || (j.a === b && j.b === a));
  return (
    <DraftForm draft={draft} save="Save the joints">
      <div className="col-span-full grid gap-1 text-sm">
        {joints.length === 0 ? (
          <p className="m-0 text-soft">
            {pack.rows.some((r) => r.typed.from || r.typed.to)
              ? "None needed: the rows name the points that they join (from, to)."
              : "None entered: the parts are taken to follow each other as they are listed."}
          </p>
        ) : null}
        {joints.map((j) => (
          <div key={`${j.a} ${j.b}`} className="flex flex-wrap items-center gap-3 border-b border-hair py-1">
            <span className="min-w-52">
              {j.a} and {j.b}
            </span>
            <label className="flex items-center gap-2">
              <input
                type="checkbox"
                className="accent-water"
                checked={j.can_part !== false}
                onChange={() => draft.set({ joints: joints.map((x) => (x === j ? { ...j, can_part: j.can_part === false } : x)) })}
              />
              a blind can go between
            </label>
            <Button onClick={() => draft.set({ joints: joints.filter((x) => x !== j) })}>Take off</Button>
          </div>
        ))}
      </div>
      <datalist id={list}>
        {tags.slice(0, 500).map((t) => (
          <option key={t} value={t} />
        ))}
      </datalist>
      <Field label="One part">{(ids) => <TextInput {...ids} list={list} value={a} onChange={(e) => setA(e.target.value)} />}</Field>
      <Field label="joined to">{(ids) => <TextInput {...ids} list={list} value={b} onChange={(e) => setB(e.target.value)} />}</Field>
      <div className="col-span-full">
        <Button
          disabled={!good}
          onClick={() => {
            draft.set({ joints: [...joints, { a, b, can_part: true }] });
            setA(b);
            setB("");
          }}
        >
          Add the joint
        </Button>
      </div>
    </DraftForm>
  );
}
