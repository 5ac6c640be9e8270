import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, http, refusal, type Schema, sentence } from "../../api/client";
import { useMe } from "../../api/session";
import { momentOf } from "../../api/zone";
import { terms, word } from "../../api/words";
import { Button, Choice, Dialog, Field, HeadRow, Heading, Lead, Note, Page, Problem, Section, Select, TextInput, Wide } from "../../ui";
import { Projects, SiteForm } from "./projects";

type Person = Schema["PersonView"];
type People = Schema["PeopleView"];
type Roles = Record<string, Schema["Role"]>;
type Given = Schema["Link"] & { sign_in: string };

const options = api.queryOptions("get", "/api/v1/people", {});

/** Roles that somebody may have in a project. */
const ROLES = () => [
  ["", "no part in it"] as const,
  ...terms("role")
    .filter((r) => r.key !== "administrator")
    .map((r) => [r.key, r.words] as const),
];

const ASKED = [
  ["offered", "of nobody; whoever likes sets one up"],
  ["administrators", "of administrators"],
  ["everybody", "of everybody"],
] as const;

/** Who has an account, with which role in which project; for an administrator. */
export function PeopleView() {
  const queries = useQueryClient();
  const all = api.useQuery("get", "/api/v1/people", {});
  const [inviting, setInviting] = useState(false);
  const [of, setOf] = useState<Person | null>(null);
  const [ending, setEnding] = useState<Person | null>(null);
  const [link, setLink] = useState<Given | null>(null);
  const [said, setSaid] = useState("");
  const refresh = () => queries.invalidateQueries({ queryKey: options.queryKey });
  if (all.isError)
    return (
      <Page>
        <Heading>People are not shown.</Heading>
        <Note kind="stop">{sentence(all.error)}</Note>
      </Page>
    );
  if (!all.data) return null;
  if (link) return <Invitation link={link} onDone={() => setLink(null)} />;
  const open = all.data.people.filter((p) => !p.ended);
  const newLink = async (p: Person) => {
    const { data, error } = await http.POST("/api/v1/people/{sign_in}/link", { params: { path: { sign_in: p.sign_in } } });
    await refresh();
    if (data) setLink({ ...data, sign_in: p.sign_in });
    else setSaid(sentence(error));
  };
  return (
    <Page>
      <div className="flex flex-wrap items-center gap-3">
        <Heading>{open.length === 1 ? "One person signs in here." : `${open.length} people sign in here.`}</Heading>
        <span className="ml-auto">
          <Button kind="main" onClick={() => setInviting(true)}>
            Invite a person
          </Button>
        </span>
      </div>
      <Lead>Whoever is invited gets a link that is good once, and chooses a password that nobody else knows. Each has one role in each project.</Lead>
      <Problem>{said}</Problem>
      <Wide label="People">
        <table className="w-full border-collapse text-base">
          <HeadRow columns={["name", "what they are", "how they stand", ""]} />
          <tbody>
            {all.data.people.map((p) => (
              <tr key={p.sign_in} className={`border-b border-hair align-baseline ${p.ended ? "text-soft" : ""}`} data-person={p.sign_in}>
                <td className="py-2 pr-4 font-semibold">{p.sign_in}</td>
                <td className="pr-4 text-sm">{what(p, all.data)}</td>
                <td className="pr-4 text-sm">{stands(p)}</td>
                <td className="py-1">
                  {p.ended ? null : (
                    <span className="flex flex-wrap justify-end gap-2">
                      {p.administrator ? null : <Button onClick={() => setOf(p)}>Roles</Button>}
                      <NewLink person={p} onAsked={() => void newLink(p)} />
                      <Button onClick={() => setEnding(p)}>End</Button>
                    </span>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </Wide>
      <AskFactor view={all.data} onChanged={refresh} />
      <Projects />
      <SiteForm />
      {inviting ? (
        <Invite
          view={all.data}
          onClose={() => setInviting(false)}
          onInvited={(given) => {
            setInviting(false);
            setLink(given);
            void refresh();
          }}
        />
      ) : null}
      {of ? <EditRoles person={of} view={all.data} onClose={() => setOf(null)} onChanged={refresh} /> : null}
      {ending ? <End person={ending} onClose={() => setEnding(null)} onChanged={refresh} /> : null}
    </Page>
  );
}

function what(p: Person, view: People): string {
  if (p.administrator) return "administrator";
  const roles = view.projects.filter((q) => p.roles[q.id]).map((q) => `${word("role", p.roles[q.id] as string)} in ${q.name}`);
  return roles.join("; ") || "no part in any project";
}

function stands(p: Person): string {
  if (p.ended) return "ended";
  if (!p.joined) return p.link_until ? `invited, link good until ${momentOf(p.link_until)}` : "the link has run out: make another";
  return p.second_factor ? "signs in with a second factor" : "signs in";
}

/** A new link ends the password that there is: asked about where there is one. */
function NewLink({ person, onAsked }: { person: Person; onAsked: () => void }) {
  const [sure, setSure] = useState(false);
  const me = useMe();
  if (me.sign_in === person.sign_in) return null;
  return (
    <>
      <Button onClick={() => (person.joined ? setSure(true) : onAsked())}>{person.joined ? "Reset password" : "New link"}</Button>
      <Dialog open={sure} onOpenChange={setSure} title={`Reset the password of ${person.sign_in}?`}>
        <p className="m-0">Their password, their second factor and every session of theirs end now. You get a link for them, with which they choose another password.</p>
        <div className="mt-4 flex gap-3">
          <Button
            kind="danger"
            onClick={() => {
              setSure(false);
              onAsked();
            }}
          >
            Reset it
          </Button>
          <Button onClick={() => setSure(false)}>Leave it</Button>
        </div>
      </Dialog>
    </>
  );
}

function RoleFields({ view, roles, set }: { view: People; roles: Roles; set: (roles: Roles) => void }) {
  return (
    <div className="grid gap-3">
      {view.projects.map((q) => (
        <Field key={q.id} label={q.name}>
          {(ids) => (
            <Select
              {...ids}
              options={ROLES()}
              value={roles[q.id] ?? ""}
              onChange={(e) => {
                const { [q.id]: _, ...rest } = roles;
                set(e.target.value ? { ...rest, [q.id]: e.target.value as Schema["Role"] } : rest);
              }}
            />
          )}
        </Field>
      ))}
    </div>
  );
}

function Invite({ view, onClose, onInvited }: { view: People; onClose: () => void; onInvited: (given: Given) => void }) {
  const [name, setName] = useState("");
  const [kind, setKind] = useState("tests");
  const [roles, setRoles] = useState<Roles>({});
  const [said, setSaid] = useState("");
  const administrator = kind === "administrator";
  const invite = async () => {
    const { data, error } = await http.PUT("/api/v1/people/{sign_in}", {
      params: { path: { sign_in: name.trim() } },
      body: { administrator, roles: administrator ? {} : roles },
    });
    if (data) onInvited({ ...data, sign_in: name.trim() });
    else setSaid(sentence(error));
  };
  return (
    <Dialog open onOpenChange={(o) => !o && onClose()} title="Invite a person">
      <form
        className="grid gap-4"
        onSubmit={(e) => {
          e.preventDefault();
          void invite();
        }}
      >
        <Field label="Name with which they sign in" hint="It stands under what they book and sign, and is never given to another.">
          {(ids) => <TextInput {...ids} autoFocus value={name} onChange={(e) => setName(e.target.value)} />}
        </Field>
        <Choice
          legend="What do they do?"
          name="kind"
          value={kind}
          onChange={setKind}
          options={[
            ["tests", "They work on tests"],
            ["administrator", "They look after the installation", "No part in any test."],
          ]}
        />
        {administrator ? null : <RoleFields view={view} roles={roles} set={setRoles} />}
        <Problem>{said}</Problem>
        <div>
          <Button type="submit" kind="main" disabled={!name.trim()}>
            Make the link
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

function EditRoles({ person, view, onClose, onChanged }: { person: Person; view: People; onClose: () => void; onChanged: () => Promise<unknown> }) {
  const [roles, setRoles] = useState<Roles>(person.roles as Roles);
  const [said, setSaid] = useState("");
  const save = async () => {
    const why = await refusal(http.PUT("/api/v1/people/{sign_in}/roles", { params: { path: { sign_in: person.sign_in } }, body: { administrator: false, roles } }));
    setSaid(why);
    if (why) return;
    await onChanged();
    onClose();
  };
  return (
    <Dialog open onOpenChange={(o) => !o && onClose()} title={`Roles of ${person.sign_in}`} description="They count at once, in every open window.">
      <RoleFields view={view} roles={roles} set={setRoles} />
      <Problem>{said}</Problem>
      <div className="mt-4">
        <Button kind="main" onClick={() => void save()}>
          Save
        </Button>
      </div>
    </Dialog>
  );
}

function End({ person, onClose, onChanged }: { person: Person; onClose: () => void; onChanged: () => Promise<unknown> }) {
  const [said, setSaid] = useState("");
  const end = async () => {
    const why = await refusal(http.DELETE("/api/v1/people/{sign_in}", { params: { path: { sign_in: person.sign_in } } }));
    setSaid(why);
    if (why) return;
    await onChanged();
    onClose();
  };
  return (
    <Dialog open onOpenChange={(o) => !o && onClose()} title={`End the account of ${person.sign_in}?`}>
      <p className="m-0">
        Nobody signs in as {person.sign_in} any more, their sessions end now, and what they did stays under their name. Only whoever owns the database opens it again.
      </p>
      <Problem>{said}</Problem>
      <div className="mt-4 flex gap-3">
        <Button kind="danger" onClick={() => void end()}>
          End it
        </Button>
        <Button onClick={onClose}>Leave it</Button>
      </div>
    </Dialog>
  );
}

/** A page to hand over. The link is shown here once. */
function Invitation({ link, onDone }: { link: Given; onDone: () => void }) {
  const me = useMe();
  const [copied, setCopied] = useState(false);
  const address = `${location.origin}${link.path}`;
  return (
    <Page>
      <Heading>
        For {link.sign_in}, at {me.site}
      </Heading>
      <p className="m-0 max-w-[70ch]">
        Open this address and choose a password. It works once, until <span className="num">{momentOf(link.until)}</span> ({me.zone}); if somebody has used it before you,
        tell {me.sign_in}.
      </p>
      <p className="num m-0 max-w-full border border-rule bg-sheet p-4 text-lg break-all" data-link>
        {address}
      </p>
      <div className="flex flex-wrap gap-3 print:hidden">
        <Button
          kind="main"
          onClick={async () => {
            await navigator.clipboard.writeText(address);
            setCopied(true);
          }}
        >
          {copied ? "Copied" : "Copy the link"}
        </Button>
        <Button onClick={() => print()}>Print this page</Button>
        <Button onClick={onDone}>Done</Button>
      </div>
      <p className="m-0 text-sm text-soft print:hidden">It is not shown again. Give it to nobody else: whoever opens it first chooses the password.</p>
    </Page>
  );
}

function AskFactor({ view, onChanged }: { view: People; onChanged: () => Promise<unknown> }) {
  const [said, setSaid] = useState("");
  return (
    <Section title="Second factor">
      <div className="max-w-md">
        <Field label="It is asked" hint="Whoever owes one sets it up before anything else opens to them.">
          {(ids) => (
            <Select
              {...ids}
              options={ASKED}
              value={view.second_factor}
              onChange={async (e) => {
                setSaid(await refusal(http.PUT("/api/v1/site/second-factor", { body: { second_factor: e.target.value as People["second_factor"] } })));
                await onChanged();
              }}
            />
          )}
        </Field>
      </div>
      <Problem>{said}</Problem>
    </Section>
  );
}
