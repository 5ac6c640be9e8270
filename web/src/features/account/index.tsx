import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, http, refusal, type Schema, sentence } from "../../api/client";
import { useMe } from "../../api/session";
import { momentOf } from "../../api/zone";
import { Device } from "./device";
import { Button, Field, Heading, Lead, Note, Page, Problem, Section, TextInput } from "../../ui";

/** One's own account: password, second factor, sessions. */
export function Account() {
  const me = useMe();
  return (
    <Page>
      <Heading>{me.sign_in === me.role_words ? me.sign_in : `${me.sign_in}, ${me.role_words}`}</Heading>
      <Lead>{me.projects.length ? me.projects.map((p) => p.name).join(", ") : me.site}</Lead>
      {me.owes_factor ? <Note kind="stop">This site asks for a second factor. Set yours up here first; everything else opens then.</Note> : null}
      <div className="grid gap-8 lg:grid-cols-2">
        <SecondFactor />
        <Password />
        {me.owes_factor ? null : <Device />}
      </div>
      {me.owes_factor ? null : <Sessions />}
    </Page>
  );
}

function Password() {
  const [now, setNow] = useState("");
  const [next, setNext] = useState("");
  const [again, setAgain] = useState("");
  const [said, setSaid] = useState("");
  const [done, setDone] = useState(false);
  const change = async () => {
    setDone(false);
    if (next !== again) return setSaid("The two new ones are not the same: type the password twice alike.");
    const why = await refusal(http.PUT("/api/v1/session/password", { body: { now, new: next } }));
    setSaid(why);
    if (why) return;
    setDone(true);
    for (const clear of [setNow, setNext, setAgain]) clear("");
  };
  const field = (label: string, value: string, set: (v: string) => void, kind: string) => (
    <Field label={label}>{(ids) => <TextInput {...ids} type="password" autoComplete={kind} value={value} onChange={(e) => set(e.target.value)} />}</Field>
  );
  return (
    <Section title="Password">
      <form
        className="grid gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          void change();
        }}
      >
        {field("Password now", now, setNow, "current-password")}
        {field("New password, at least 10 characters", next, setNext, "new-password")}
        {field("The new one again", again, setAgain, "new-password")}
        <Problem>{said}</Problem>
        {done ? <Note kind="plain">Your password is changed. Every other session of yours has ended.</Note> : null}
        <div>
          <Button type="submit" disabled={!now || !next}>
            Change the password
          </Button>
        </div>
      </form>
    </Section>
  );
}

function SecondFactor() {
  const me = useMe();
  const queries = useQueryClient();
  const [setup, setSetup] = useState<Schema["FactorView"] | null>(null);
  const [ending, setEnding] = useState(false);
  const [code, setCode] = useState("");
  const [password, setPassword] = useState("");
  const [said, setSaid] = useState("");
  const settle = async (change: Promise<{ error?: unknown }>) => {
    const why = await refusal(change);
    setSaid(why);
    if (why) return;
    setSetup(null);
    setEnding(false);
    setCode("");
    setPassword("");
    await queries.invalidateQueries({ predicate: (q) => q.queryKey[1] === "/api/v1/session" });
  };
  const begin = async () => {
    setSaid("");
    const { data, error } = await http.POST("/api/v1/session/second-factor");
    if (data) setSetup(data);
    else setSaid(sentence(error));
  };
  const body = { code, password };
  const fields = (
    <>
      <Field label="The six figures that it shows now">
        {(ids) => <TextInput {...ids} inputMode="numeric" autoComplete="one-time-code" value={code} onChange={(e) => setCode(e.target.value)} />}
      </Field>
      <Field label="Your password">
        {(ids) => <TextInput {...ids} type="password" autoComplete="current-password" value={password} onChange={(e) => setPassword(e.target.value)} />}
      </Field>
    </>
  );
  return (
    <Section title="Second factor">
      {me.second_factor ? (
        <p className="m-0">In use: whoever signs in as {me.sign_in} types six figures as well.</p>
      ) : (
        <p className="m-0 text-soft">
          An application on your telephone shows six figures that change every half minute. With it nobody signs in as you who only knows your password.
        </p>
      )}
      {setup ? (
        <div className="grid gap-3">
          <img
            src={`data:image/svg+xml;utf8,${encodeURIComponent(setup.svg)}`}
            alt="The secret, for the application to read"
            width={200}
            height={200}
            className="bg-white"
          />
          <p className="m-0 text-sm">
            Or type it in: <code className="num break-all">{setup.letters}</code>
          </p>
          {fields}
          <div>
            <Button kind="main" disabled={code.length < 6} onClick={() => void settle(http.PUT("/api/v1/session/second-factor", { body }))}>
              Use it from now on
            </Button>
          </div>
        </div>
      ) : me.second_factor ? (
        ending ? (
          <div className="grid gap-3">
            {fields}
            <div>
              <Button kind="danger" disabled={code.length < 6} onClick={() => void settle(http.DELETE("/api/v1/session/second-factor", { body }))}>
                Take it away
              </Button>
            </div>
          </div>
        ) : (
          <div>
            <Button onClick={() => setEnding(true)}>Take it away</Button>
          </div>
        )
      ) : (
        <div>
          <Button kind={me.owes_factor ? "main" : "plain"} onClick={() => void begin()}>
            Set up a second factor
          </Button>
        </div>
      )}
      <Problem>{said}</Problem>
    </Section>
  );
}

function Sessions() {
  const queries = useQueryClient();
  const all = api.useQuery("get", "/api/v1/session/all");
  const end = async (id: string) => {
    await http.DELETE("/api/v1/session/all/{id}", { params: { path: { id } } });
    await queries.invalidateQueries({ predicate: (q) => q.queryKey[1] === "/api/v1/session/all" });
  };
  return (
    <Section title="Where you are signed in">
      <ul className="m-0 list-none p-0 text-sm">
        {(all.data ?? []).map((s) => (
          <li key={s.id} className="flex flex-wrap items-baseline gap-x-4 border-b border-hair py-2">
            <span className="min-w-0 flex-1 break-words">{device(s.agent)}</span>
            <span className="num text-soft">since {momentOf(s.made_at)}</span>
            {s.this ? <strong>this one</strong> : <Button onClick={() => void end(s.id)}>End it</Button>}
          </li>
        ))}
      </ul>
    </Section>
  );
}

/** What somebody signed in with, as they would call it; a program is named as it names itself. */
function device(agent: string): string {
  const browser = /(Firefox|Edg|OPR|Chrome|Safari)\//.exec(agent)?.[1];
  if (!browser) return agent || "a program";
  const name = { Edg: "Edge", OPR: "Opera" }[browser] ?? browser;
  const on = /(Android|iPhone|iPad|Windows|Mac OS X|Linux)/.exec(agent)?.[1];
  return on ? `${name} on ${on}` : name;
}
