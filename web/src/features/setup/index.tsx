import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { http, type Schema, sentence, setToken } from "../../api/client";
import { Button, Choice, Field, Lead, Note, Problem, Section, Select, TextInput } from "../../ui";
import { offered, type Units, unitsOf } from "../../units/sets";

const WORKS = [
  ["owner", "I test alone", "A boiler, a receiver, a line of my own: I do everything and sign it."],
  ["engineer", "I plan tests as engineer", "Others run them, inspect and accept; I invite them afterwards."],
  ["", "I only look after it", "I invite everybody who tests."],
] as const;

/** Zones that this browser knows; the one that it is in first. */
function zones(): string[] {
  const here = Intl.DateTimeFormat().resolvedOptions().timeZone;
  const all = "supportedValuesOf" in Intl ? Intl.supportedValuesOf("timeZone") : [];
  return [here, ...all.filter((z) => z !== here), ...(all.includes("UTC") || here === "UTC" ? [] : ["UTC"])];
}

interface Values {
  code: string;
  site: string;
  zone: string;
  units: string;
  project: string;
  admin: string;
  adminPassword: string;
  works: string;
  name: string;
  password: string;
  demo: string;
}

/** The first start of an empty installation: one page, and then it is theirs. */
export function Setup({ demo, site }: { demo: boolean; site: string }) {
  const queries = useQueryClient();
  const [v, setV] = useState<Values>({
    code: "",
    site,
    zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
    units: "metric",
    project: "",
    admin: "administrator",
    adminPassword: "",
    works: "owner",
    name: "",
    password: "",
    demo: "",
  });
  const [wrong, setWrong] = useState<{ field?: string; said: string } | null>(null);
  const [people, setPeople] = useState<Schema["DemoAccount"][] | null>(null);
  const [busy, setBusy] = useState(false);
  const set = (key: keyof Values) => (value: string) => setV((old) => ({ ...old, [key]: value }));
  const at = (field: string) => (wrong?.field === field ? wrong.said : undefined);
  const text = (key: keyof Values, label: string, field: string, hint?: string, more: Record<string, string> = {}) => (
    <Field label={label} hint={hint} error={at(field)}>
      {(ids) => <TextInput {...ids} {...more} value={v[key]} onChange={(e) => set(key)(e.target.value)} />}
    </Field>
  );
  const submit = async () => {
    setWrong(null);
    setBusy(true);
    try {
      const { data, error } = await http.POST("/api/v1/setup", {
        body: {
          code: v.code,
          site: v.site,
          zone: v.zone,
          units: unitsOf(v.units) as Units,
          project: v.project || v.site,
          administrator: { sign_in: v.admin, password: v.adminPassword },
          worker: v.works ? { sign_in: v.name, password: v.password, role: v.works as Schema["Role"] } : null,
          demo: v.demo === "demo",
        },
      });
      if (!data) return setWrong({ field: (error as { field?: string }).field, said: sentence(error) });
      if (data.demo.length) return setPeople(data.demo);
      const as = v.works ? { sign_in: v.name, password: v.password } : { sign_in: v.admin, password: v.adminPassword };
      const begun = await http.POST("/api/v1/session", { body: { ...as, code: "" } });
      if (begun.data) setToken(begun.data.token);
      history.replaceState(null, "", v.works ? "/" : "/people");
      await queries.resetQueries();
    } catch (e) {
      setWrong({ said: sentence(e) });
    } finally {
      setBusy(false);
    }
  };
  if (people) return <DemoPeople people={people} />;
  return (
    <main className="mx-auto grid w-full max-w-3xl gap-6 px-6 py-8 max-[600px]:px-4">
      <div>
        <p className="m-0 text-sm font-bold text-water">Zero Leak</p>
        <h1 className="m-0 mt-1 text-2xl font-bold">This installation is empty. Set it up here, once.</h1>
      </div>
      <Lead>Everything on this page can be changed later, but for the names with which people sign in.</Lead>
      <form
        className="grid gap-8"
        noValidate
        onSubmit={(e) => {
          e.preventDefault();
          void submit();
        }}
      >
        <Section title="1. That it is you">
          {text("code", "Code", "code", "The terminal in which the server was started has printed it: eight letters and figures.", { autoCapitalize: "characters" })}
        </Section>
        <Section title="2. The site">
          <div className="grid gap-4 sm:grid-cols-2">
            {text("site", "Name of the site", "site", "It stands on every record.")}
            {text("project", "Name of the first project", "project", "Empty for the site's name. Packs, people and the specification belong to a project.")}
            <Field label="Zone" hint="Of every time and every day on screens and records." error={at("zone")}>
              {(ids) => <Select {...ids} options={zones().map((z) => [z, z] as const)} value={v.zone} onChange={(e) => set("zone")(e.target.value)} />}
            </Field>
            <Field label="Units" hint="Everybody may choose their own.">
              {(ids) => <Select {...ids} options={offered(v.units)} value={v.units} onChange={(e) => set("units")(e.target.value)} />}
            </Field>
          </div>
        </Section>
        <Section title="3. Who looks after it">
          <p className="m-0 text-sm text-soft">
            An administrator invites people and reads the security log, and has no part in any test. Write the password down where only you find it.
          </p>
          <div className="grid gap-4 sm:grid-cols-2">
            {text("admin", "Administrator's name", "administrator.sign_in", undefined, { autoComplete: "username" })}
            {text("adminPassword", "Administrator's password", "administrator.password", "At least 10 characters.", { type: "password", autoComplete: "new-password" })}
          </div>
        </Section>
        <Section title="4. Who tests">
          <Choice legend="What do you do?" name="works" value={v.works} onChange={set("works")} options={WORKS} />
          {v.works ? (
            <div className="grid gap-4 sm:grid-cols-2">
              {text("name", "The name with which you test", "worker.sign_in", "Another than the administrator's: it stands under what you sign.")}
              {text("password", "Its password", "worker.password", "At least 10 characters.", { type: "password", autoComplete: "new-password" })}
            </div>
          ) : null}
          {at("worker.role") ? <Problem>{at("worker.role") ?? ""}</Problem> : null}
        </Section>
        {demo ? (
          <Section title="5. With what it begins">
            <Choice
              legend="With what?"
              name="demo"
              value={v.demo}
              onChange={set("demo")}
              options={[
                ["", "With nothing", "Begin with your own first instrument and test."],
                ["demo", "With an invented site", "To look round: fifty tests in every state, and eight people to sign in as."],
              ]}
            />
          </Section>
        ) : null}
        {wrong && !wrong.field ? <Problem>{wrong.said}</Problem> : null}
        {wrong?.field ? <Note kind="stop">Nothing was set up yet: one answer above cannot be used.</Note> : null}
        <div>
          <Button type="submit" kind="main" size="large" disabled={busy}>
            {busy ? "Setting it up" : "Set it up"}
          </Button>
        </div>
      </form>
    </main>
  );
}

/** The people of the invented site, shown once. */
function DemoPeople({ people }: { people: readonly Schema["DemoAccount"][] }) {
  return (
    <main className="mx-auto grid w-full max-w-3xl gap-5 px-6 py-8">
      <h1 className="m-0 text-2xl font-bold">It is set up. An invented site is being loaded.</h1>
      <Lead>Its people sign in with these passwords, which are shown here once: print or copy them. Tests appear as they are loaded, within a minute or two.</Lead>
      <table className="w-full border-collapse text-base">
        <thead>
          <tr className="border-b border-rule text-sm text-soft">
            <th scope="col">name</th>
            <th scope="col">password</th>
            <th scope="col">what they do</th>
          </tr>
        </thead>
        <tbody>
          {people.map((p) => (
            <tr key={p.sign_in} className="border-b border-hair">
              <td className="py-1.5 pr-4 font-semibold">{p.sign_in}</td>
              <td className="num pr-4">{p.password}</td>
              <td className="text-soft">{p.does}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="flex gap-3 print:hidden">
        <Button kind="main" size="large" onClick={() => location.assign("/")}>
          Sign in
        </Button>
        <Button size="large" onClick={() => print()}>
          Print this page
        </Button>
      </div>
    </main>
  );
}
