import { useState } from "react";
import { type Attempt, http, newId, type Schema, sentence } from "../../api/client";
import { usePack, usePackActions } from "../../api/pack";
import { terms } from "../../api/words";
import { useKept } from "../../api/typing";
import { Button, Dialog, Field, Problem, TextInput } from "../../ui";

/** Asks what becomes of a test that meets its basis although a leak is shown that nobody accounted for. */
export function Decide({ attempt }: { attempt: Attempt }) {
  const pack = usePack();
  const [open, setOpen] = useState(false);
  const by = attempt.judgement?.lines?.by_basis;
  if (attempt.frozen || !pack.may.judge || !by || !(by.to_decide || by.decided)) return null;
  return (
    <div className="flex flex-wrap gap-3">
      <Button kind={by.to_decide ? "main" : undefined} onClick={() => setOpen(true)}>
        {by.to_decide ? "Decide about the leak" : "Decide otherwise"}
      </Button>
      {open ? <Ask attempt={attempt} onClose={() => setOpen(false)} /> : null}
    </div>
  );
}

function Ask({ attempt, onClose }: { attempt: Attempt; onClose: () => void }) {
  const { refresh } = usePackActions();
  const [{ choice, reason }, setKept, booked] = useKept(`decide ${attempt.id}`, "the decision about the leak", { choice: "", reason: "" });
  const [wrong, setWrong] = useState<{ choice?: string; reason?: string; all?: string }>({});
  const [id] = useState(newId);
  const [busy, setBusy] = useState(false);
  const book = async () => {
    const missing = {
      choice: choice ? undefined : "Say what you decide.",
      reason: reason.trim() ? undefined : "Say why: where it goes, or why it cannot be accepted.",
    };
    setWrong(missing);
    if (missing.choice || missing.reason) return;
    setBusy(true);
    try {
      const { error } = await http.PUT("/api/v1/attempts/{attempt}/corrections/{correction}", {
        params: { path: { attempt: attempt.id, correction: id } },
        body: { what: "decide", choice: choice as Schema["Choice"], reason: reason.trim() },
      });
      if (error) return setWrong({ all: sentence(error) });
      booked();
      await refresh();
      onClose();
    } catch (problem) {
      setWrong({ all: sentence(problem) });
    } finally {
      setBusy(false);
    }
  };
  return (
    <Dialog
      open
      onOpenChange={(o) => !o && onClose()}
      title="Decide about the leak"
      description="What is asked is met, and the record shows a leak that nobody has accounted for. Looking again is a choice too: book the look, and where it leaks, and leave this. Your name and reason are printed."
    >
      <form
        className="grid gap-4"
        onSubmit={(e) => {
          e.preventDefault();
          void book();
        }}
      >
        <fieldset className="m-0 grid gap-2 border-0 p-0">
          <legend className="mb-1 p-0 text-sm font-semibold">What becomes of the test</legend>
          {terms("choice").map((c) => (
            <label key={c.key} className="flex items-center gap-2">
              <input type="radio" name="choice" value={c.key} checked={choice === c.key} onChange={() => setKept({ choice: c.key, reason })} />
              {c.words}
            </label>
          ))}
          {wrong.choice ? <span className="text-sm text-danger">{wrong.choice}</span> : null}
        </fieldset>
        <Field label="Why" error={wrong.reason}>
          {(f) => (
            <TextInput
              {...f}
              value={reason}
              onChange={(e) => setKept({ choice, reason: e.target.value })}
              placeholder="drips at the pump's own gland, outside the boundary"
            />
          )}
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
