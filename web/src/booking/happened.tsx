import { useState } from "react";
import type { Attempt } from "../api/client";
import { useKept } from "../api/typing";
import { notes } from "../api/words";
import { Button, Dialog, Field, Problem, TextInput } from "../ui";
import { ByHand } from "./by-hand";
import { useBook } from "./book";

interface Props {
  attempt: Attempt;
  open: boolean;
  onClose: () => void;
  onLeak: () => void;
}

/** Something happened: one tap for the usual, a line for the rest. */
export function Happened({ attempt, open, onClose, onLeak }: Props) {
  const { book, problem, busy } = useBook(attempt.id);
  const [{ note }, setNote, booked] = useKept(`happened ${attempt.id}`, "what happened", { note: "" });
  const [byHand, setByHand] = useState(false);
  if (byHand) return <ByHand attempt={attempt} open onClose={() => setByHand(false)} />;
  const say = async (words: string) => {
    if (await book("noted", { note: words })) {
      booked();
      onClose();
    }
  };
  return (
    <Dialog
      open={open}
      onOpenChange={(o) => !o && onClose()}
      title="Something happened"
      description="Booked with the time of the tap. Nothing is tightened under pressure."
    >
      <div className="grid grid-cols-2 gap-2">
        {notes().map((w) => (
          <Button key={w} size="large" className="text-base" disabled={busy} onClick={() => void say(w)}>
            {w}
          </Button>
        ))}
        <Button
          size="large"
          kind="danger"
          className="col-span-2"
          onClick={() => {
            onClose();
            onLeak();
          }}
        >
          A leak was seen…
        </Button>
        {attempt.by_hand.length ? (
          <Button
            size="large"
            className="col-span-2 text-base"
            onClick={() => {
              onClose();
              setByHand(true);
            }}
          >
            Strokes, temperatures, gauges, hand-over…
          </Button>
        ) : null}
      </div>
      <form
        className="mt-4 grid gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          void say(note);
        }}
      >
        <Field label="Or in your own words">{(f) => <TextInput {...f} value={note} onChange={(e) => setNote({ note: e.target.value })} />}</Field>
        <Problem>{problem}</Problem>
        <div className="flex gap-3">
          <Button type="submit" kind="main" disabled={busy || !note.trim()}>
            Book it
          </Button>
          <Button onClick={onClose}>Leave it</Button>
        </div>
      </form>
    </Dialog>
  );
}
