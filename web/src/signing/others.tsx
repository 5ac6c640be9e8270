import { useRef, useState } from "react";
import { type Attempt, http, newId, type Schema, sentence } from "../api/client";
import { usePack, usePackActions } from "../api/pack";
import { useKept } from "../api/typing";
import { word } from "../api/words";
import { momentOf, zoneName } from "../api/zone";
import { Button, Field, Problem, TextInput } from "../ui";
import { HandForm } from "./hand-form";

/** The signature of another person on a quick test: over a link to their own device, or drawn on this one. */
export function Others({ attempt, act }: { attempt: Attempt; act: Schema["Act"] }) {
  const pack = usePack();
  const { refresh } = usePackActions();
  const [{ name }, set] = useKept(`link ${attempt.id} ${act}`, "for whom the link is", { name: "" });
  const [link, setLink] = useState<Schema["SigningLink"] | null>(null);
  const [problem, setProblem] = useState("");
  const [here, setHere] = useState(false);
  const id = useRef(newId());
  if (pack.form !== "quick" || act === "performed" || !pack.may.book) return null;
  const make = async () => {
    setProblem("");
    try {
      const { data, error } = await http.POST("/api/v1/attempts/{attempt}/links", { params: { path: { attempt: attempt.id } }, body: { act, name } });
      if (data) setLink(data);
      else setProblem(sentence(error));
    } catch (e) {
      setProblem(sentence(e));
    }
  };
  return (
    <div className="grid gap-4" data-others={act}>
      <p className="m-0 max-w-[80ch]">
        It is now signed as {word("act", act)}, by somebody else. They sign with their own account, over a link on a device of their own, or by hand on this one.
      </p>
      {link ? (
        <div className="grid gap-1">
          <p className="m-0">
            Send this link to <strong>{name}</strong>, and to nobody else. It opens this one record, and is good for one signature until {momentOf(link.until)} (
            {zoneName()}):
          </p>
          <code className="num border border-rule bg-sheet p-2 text-sm break-all select-all" data-link>
            {location.origin}
            {link.path}
          </code>
        </div>
      ) : (
        <form
          className="flex flex-wrap items-end gap-3"
          onSubmit={(e) => {
            e.preventDefault();
            void make();
          }}
        >
          <Field label="Who signs on their own device" error={problem || undefined}>
            {(f) => <TextInput {...f} value={name} onChange={(e) => set({ name: e.target.value })} maxLength={120} />}
          </Field>
          <Button type="submit">Make a link for them</Button>
        </form>
      )}
      {here ? (
        <HandForm
          name={name}
          statement={`${attempt.next_statement ?? ""} Drawn on the device of whoever tested: nothing proves who drew it, and no authority accepts anything by it.`}
          label={`Sign by hand as ${word("act", act)}`}
          send={async (hand) => {
            const { error } = await http.PUT("/api/v1/attempts/{attempt}/drawn/{signature}", {
              params: { path: { attempt: attempt.id, signature: id.current } },
              body: { act, hand },
            });
            if (!error) await refresh();
            return error;
          }}
        />
      ) : (
        <div>
          <Button onClick={() => setHere(true)}>Sign by hand on this device…</Button>
        </div>
      )}
      {link ? <Problem>{problem}</Problem> : null}
    </div>
  );
}
