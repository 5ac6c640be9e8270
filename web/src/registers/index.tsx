import { useState } from "react";
import { http, newId, refusal } from "../api/client";
import { usePack, usePackActions } from "../api/pack";
import { useKept } from "../api/typing";
import { Button, Dialog, Field, Problem, TextInput } from "../ui";

/** Registers of a pack. */
type Key = "punch" | "boundary" | "look" | "promise" | "decision";
interface Row {
  id: string;
  version: number;
}

/** Adds, changes and removes the items of a register; `problem` says why the last one was refused. */
export function useRegister(register: Key) {
  const pack = usePack();
  const { refresh } = usePackActions();
  const [problem, setProblem] = useState("");
  const after = async (why: string) => {
    setProblem(why);
    if (!why) await refresh();
    return !why;
  };
  const path = (item: string) => ({ id: pack.id, register, item });
  const match = (version: number) => ({ "If-Match": `"v${version}"` });
  return {
    problem,
    add: async (body: object) => after(await refusal(http.PUT("/api/v1/packs/{id}/registers/{register}/{item}", { params: { path: path(newId()) }, body: { ...body } }))),
    change: async (row: Row, body: object) =>
      after(await refusal(http.PUT("/api/v1/packs/{id}/registers/{register}/{item}", { params: { path: path(row.id), header: match(row.version) }, body: { ...body } }))),
    remove: async (row: Row, why: string) =>
      after(
        await refusal(http.PUT("/api/v1/packs/{id}/registers/{register}/{item}/removal", { params: { path: path(row.id), header: match(row.version) }, body: { why } })),
      ),
  };
}

/** Takes an item off its register, with a reason. */
export function RemoveItem({ of, row, tag }: { of: ReturnType<typeof useRegister>; row: Row; tag: string }) {
  const [open, setOpen] = useState(false);
  const [{ why }, setWhy, removed] = useKept(`remove ${row.id}`, "why an item is removed", { why: "" });
  return (
    <>
      <button type="button" className="min-h-6 border-0 bg-transparent p-0 text-sm text-water underline" onClick={() => setOpen(true)}>
        remove<span className="sr-only"> {tag}</span>…
      </button>
      <Dialog
        open={open}
        onOpenChange={setOpen}
        title={`Remove ${tag}?`}
        description="For what was entered by mistake. It asks for nothing any more, and stays readable with your name and the reason."
      >
        <form
          className="grid gap-3"
          onSubmit={async (e) => {
            e.preventDefault();
            if (!(await of.remove(row, why))) return;
            removed();
            setOpen(false);
          }}
        >
          <Field label="Why it is removed">{(f) => <TextInput {...f} value={why} onChange={(e) => setWhy({ why: e.target.value })} maxLength={500} />}</Field>
          <Problem>{of.problem}</Problem>
          <div className="flex gap-3">
            <Button type="submit" kind="main" disabled={!why.trim()}>
              Remove it
            </Button>
            <Button onClick={() => setOpen(false)}>Leave it</Button>
          </div>
        </form>
      </Dialog>
    </>
  );
}

/** A register as a file for a spreadsheet. */
export function RegisterFile({ register }: { register: Key }) {
  const pack = usePack();
  return (
    <a className="text-sm print:hidden" href={`/api/v1/packs/${pack.id}/registers/${register}/csv`} download>
      as a table (CSV)
    </a>
  );
}
