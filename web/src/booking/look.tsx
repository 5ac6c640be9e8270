import { useState } from "react";
import type { Schema } from "../api/client";
import { Button, Dialog, Field, Problem, Select, TextInput } from "../ui";
import { useBook } from "./book";
import { useKept } from "../api/typing";
import { offered } from "../api/words";

const NO_LOOK = { place: "weld" as Schema["LeakPlace"], count: "" };

/** A look at one class of places, with how many there are; or the look at every joint. */
export function LookDialog({ attempt, open, onClose }: { attempt: string; open: boolean; onClose: () => void }) {
  const { book, problem, busy } = useBook(attempt);
  const [look, setLook, booked] = useKept(`look ${attempt}`, "a look", NO_LOOK);
  const { place, count } = look;
  const [wrong, setWrong] = useState("");
  return (
    <Dialog
      open={open}
      onOpenChange={(o) => !o && onClose()}
      title="Looked at"
      description="Book class by class how many places were looked at; a place that leaks is noted as a leak of its own."
    >
      <form
        className="grid gap-4"
        onSubmit={async (e) => {
          e.preventDefault();
          const looked = Number(count);
          setWrong(Number.isInteger(looked) && looked > 0 ? "" : "Write how many places were looked at, for instance 18.");
          if (Number.isInteger(looked) && looked > 0 && (await book("look_done", { place, looked }))) {
            booked();
            onClose();
          }
        }}
      >
        <Field label="Class of places">
          {(f) => <Select {...f} options={offered("leak_place")} value={place} onChange={(e) => setLook({ place: e.target.value as Schema["LeakPlace"] })} />}
        </Field>
        <Field label="How many were looked at" error={wrong || undefined}>
          {(f) => <TextInput {...f} value={count} onChange={(e) => setLook({ count: e.target.value })} inputMode="numeric" />}
        </Field>
        <Problem>{problem}</Problem>
        <div className="flex flex-wrap gap-3">
          <Button type="submit" kind="main" disabled={busy}>
            Book this class
          </Button>
          <Button
            disabled={busy}
            onClick={async () => {
              if (await book("look_done")) onClose();
            }}
          >
            Every joint in the claim was looked at
          </Button>
          <Button onClick={onClose}>Leave it</Button>
        </div>
      </form>
    </Dialog>
  );
}
