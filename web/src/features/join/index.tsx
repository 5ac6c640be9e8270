import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { http, sentence } from "../../api/client";
import { Button, Field, Note, Problem, TextInput } from "../../ui";

/** What stands behind # never reaches a server by itself. */
const token = () => location.hash.replace(/^#/, "");

/** A one-time link: whose it is, and the password that they choose. */
export function Join() {
  const [of] = useState(token);
  const [password, setPassword] = useState("");
  const [again, setAgain] = useState("");
  const [problem, setProblem] = useState("");
  const [done, setDone] = useState(false);
  const whose = useQuery({
    queryKey: ["join", of],
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: async () => {
      const { data, error } = await http.POST("/api/v1/join", { body: { token: of } });
      if (!data) throw error;
      return data;
    },
  });
  const choose = async () => {
    setProblem("");
    if (password !== again) return setProblem("The two are not the same: type the password twice alike.");
    try {
      const { data, error } = await http.POST("/api/v1/join", { body: { token: of, password } });
      if (data) setDone(true);
      else setProblem(sentence(error));
    } catch (e) {
      setProblem(sentence(e));
    }
  };
  return (
    <main className="grid min-h-dvh place-items-center p-6">
      <form
        className="grid w-full max-w-md gap-4 border border-hair bg-sheet p-8"
        noValidate
        onSubmit={(e) => {
          e.preventDefault();
          void choose();
        }}
      >
        <h1 className="m-0 text-2xl font-bold">{whose.data ? whose.data.site : "Zero Leak"}</h1>
        {whose.isError ? <Note kind="stop">{sentence(whose.error)}</Note> : null}
        {done ? (
          <>
            <Note kind="plain">Your password is chosen. This link is used up.</Note>
            <Button kind="main" size="large" onClick={() => location.assign("/")}>
              Sign in as {whose.data?.sign_in}
            </Button>
          </>
        ) : whose.data ? (
          <>
            <p className="m-0">
              You sign in as <strong>{whose.data.sign_in}</strong>. Choose a password that nobody else knows; four plain words are good.
            </p>
            <input type="text" className="sr-only" tabIndex={-1} aria-hidden readOnly autoComplete="username" value={whose.data.sign_in} />
            <Field label="Password" hint="At least 10 characters.">
              {(ids) => <TextInput {...ids} type="password" autoComplete="new-password" value={password} onChange={(e) => setPassword(e.target.value)} />}
            </Field>
            <Field label="The same again">
              {(ids) => <TextInput {...ids} type="password" autoComplete="new-password" value={again} onChange={(e) => setAgain(e.target.value)} />}
            </Field>
            <Problem>{problem}</Problem>
            <Button type="submit" kind="main" size="large" disabled={password === ""}>
              Choose this password
            </Button>
          </>
        ) : null}
      </form>
    </main>
  );
}
