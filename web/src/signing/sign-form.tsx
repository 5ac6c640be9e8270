import { useRef, useState } from "react";
import { type Attempt, http, newId, sentence } from "../api/client";
import { usePackActions } from "../api/pack";
import { useMe } from "../api/session";
import { word } from "../api/words";
import { Button, Field, TextInput } from "../ui";

/** The signature of whoever is signed in, with the password again. */
export function SignForm({ attempt }: { attempt: Attempt }) {
  const me = useMe();
  const { refresh } = usePackActions();
  const [password, setPassword] = useState("");
  const [problem, setProblem] = useState("");
  const id = useRef(newId());
  return (
    <form
      className="grid max-w-xl gap-3 border border-rule bg-sheet p-4"
      onSubmit={async (e) => {
        e.preventDefault();
        setProblem("");
        if (!attempt.next_act) return;
        try {
          const { error } = await http.PUT("/api/v1/attempts/{attempt}/signatures/{signature}", {
            params: { path: { attempt: attempt.id, signature: id.current } },
            body: { act: attempt.next_act, password },
          });
          if (error) setProblem(sentence(error));
          else {
            id.current = newId();
            await refresh();
          }
        } catch (e) {
          setProblem(sentence(e));
        } finally {
          setPassword("");
        }
      }}
    >
      <p className="m-0">
        You sign as <strong>{me.sign_in}</strong>: “{attempt.next_statement}”
      </p>
      <Field label="Your password, again" error={problem || undefined}>
        {(f) => <TextInput {...f} type="password" autoComplete="current-password" value={password} onChange={(e) => setPassword(e.target.value)} />}
      </Field>
      <div>
        <Button type="submit" kind="main" disabled={password === ""}>
          Sign as {word("act", attempt.next_act ?? "performed")}
        </Button>
      </div>
    </form>
  );
}
