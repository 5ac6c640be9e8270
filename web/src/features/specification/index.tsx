import { word } from "../../api/words";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useProject } from "../../api/project";
import { ProjectName } from "../../api/project-name";
import { keptTyping, useTyping } from "../../api/typing";
import { api, http, isOutrun, type Schema, sentence } from "../../api/client";
import { changed, rebase } from "../../api/rebase";
import { Button, Heading, Lead, Page, Problem, Section, Select, TextInput } from "../../ui";

type Spec = Schema["Specification"];
type Question = Schema["QuestionView"];
type Chosen = Schema["Chosen"];

const options = (project: string) => api.queryOptions("get", "/api/v1/projects/{project}/specification", { params: { path: { project } } });

/** What the project lays down for all its tests: every question on which practitioners or editions differ, with its default and its reason. */
export function Specification() {
  const project = useProject();
  const view = useQuery({ ...options(project?.id ?? ""), enabled: Boolean(project) });
  if (view.isError) return <Page>{sentence(view.error)}</Page>;
  if (!view.data) return <Page>reading the specification</Page>;
  return <Form key={project?.id} view={view.data} project={project?.id ?? ""} />;
}

/** What I changed since `base` on top of what somebody else made of it, answer by answer. */
function merged(base: Spec, mine: Spec, theirs: Spec): Spec {
  return {
    schools: dropped(rebase(base.schools ?? {}, mine.schools ?? {}, theirs.schools ?? {})),
    bases: dropped(rebase(base.bases ?? {}, mine.bases ?? {}, theirs.bases ?? {})),
    library: rebase({ library: base.library }, { library: mine.library }, { library: theirs.library }).library,
  };
}

const dropped = <T,>(all: Record<string, T | undefined>) => Object.fromEntries(Object.entries(all).filter(([, v]) => v !== undefined)) as Record<string, T>;

function Form({ view, project }: { view: Schema["SpecificationView"]; project: string }) {
  const queries = useQueryClient();
  // what the choosing began on; a newer version is taken over only while nothing is chosen
  const [base, setBase] = useState(view);
  const key = `specification of ${project}`;
  const [spec, setSpec] = useState<Spec>(() => {
    const kept = keptTyping<{ base: Spec; mine: Spec }>(key);
    return kept ? merged(kept.base, kept.mine, view.specification) : view.specification;
  });
  const [problem, setProblem] = useState("");
  const schools = spec.schools ?? {};
  const bases = spec.bases ?? {};
  const dirty = changed(base.specification, spec);
  const typing = useTyping({ key, what: "the specification", value: () => ({ base: base.specification, mine: spec }), dirty });
  if (base.version !== view.version && !dirty) {
    setBase(view);
    setSpec(view.specification);
  }
  const differs = Object.keys(schools).length + Object.values(bases).reduce((n, b) => n + Object.keys(b).length, 0);
  const save = async () => {
    setProblem("");
    const { data, error } = await http.PUT("/api/v1/projects/{project}/specification", {
      params: { path: { project }, header: { "if-match": `"v${base.version}"` } },
      body: spec,
    });
    if (data) {
      typing.done();
      setBase(data);
      setSpec(data.specification);
      queries.setQueryData(options(project).queryKey, data);
      void queries.invalidateQueries({ predicate: (q) => q.queryKey[1] !== "/api/v1/session" });
      return;
    }
    setProblem(sentence(error));
    if (!isOutrun(error)) return;
    const theirs = await queries.fetchQuery({ ...options(project), staleTime: 0 });
    setSpec(merged(base.specification, spec, theirs.specification));
    setBase(theirs);
  };
  const without = <T,>(all: Record<string, T>, key: string) => Object.fromEntries(Object.entries(all).filter(([k]) => k !== key));
  const answer = (q: Question, chosen: Chosen | undefined, put: (c: Chosen | null) => void) => (
    <Row key={q.key} question={q} chosen={chosen} fixed={!view.may_change} onChange={put} />
  );
  return (
    <Page>
      <ProjectName />
      <Heading>{differs === 0 ? "Every question has its default." : `${differs} ${differs === 1 ? "answer differs" : "answers differ"} from the default.`}</Heading>
      <Lead>
        Where practitioners or editions differ, one answer counts for every test of the project; a test may still answer for itself. Released tests keep what counted at
        their release. {view.changed}
      </Lead>
      <Problem>{problem}</Problem>
      {view.may_change ? (
        <div className="flex flex-wrap items-center gap-3">
          <Button kind="main" onClick={save} disabled={!dirty}>
            Save
          </Button>
          <span role="status" className="text-sm text-soft">
            {typing.words}
          </span>
          {dirty ? <TouchesWhat key={JSON.stringify(spec)} project={project} spec={spec} /> : null}
        </div>
      ) : (
        <p className="m-0 text-sm text-soft">The engineer changes this; you see it as it stands.</p>
      )}
      <Section title="Schools" aside="common practice, without a published source">
        {view.schools.map((q) => answer(q, schools[q.key], (c) => setSpec({ ...spec, schools: c ? { ...schools, [q.key]: c } : without(schools, q.key) })))}
      </Section>
      {view.bases.map((b) => (
        <Section key={b.basis} title={b.name}>
          {b.questions.map((q) =>
            answer(q, bases[b.basis]?.[q.key], (c) => {
              const own = c ? { ...bases[b.basis], [q.key]: c } : without(bases[b.basis] ?? {}, q.key);
              setSpec({ ...spec, bases: Object.keys(own).length ? { ...bases, [b.basis]: own } : without(bases, b.basis) });
            }),
          )}
        </Section>
      ))}
    </Page>
  );
}

/** Which packs what is chosen, and not saved, would touch. */
function TouchesWhat({ project, spec }: { project: string; spec: Spec }) {
  const [seen, setSeen] = useState<Schema["Touches"] | null>(null);
  const [said, setSaid] = useState("");
  const [busy, setBusy] = useState(false);
  const look = async () => {
    setBusy(true);
    const { data, error } = await http.POST("/api/v1/projects/{project}/specification/touches", { params: { path: { project } }, body: spec });
    setBusy(false);
    if (data) setSeen(data);
    else setSaid(sentence(error));
  };
  if (!seen)
    return (
      <>
        <Button onClick={() => void look()} disabled={busy}>
          {busy ? "Looking" : "See which packs it touches"}
        </Button>
        <Problem>{said}</Problem>
      </>
    );
  return (
    <div className="grid w-full gap-2 text-sm" data-touches={seen.packs.length}>
      <p className="m-0 font-semibold">
        {seen.packs.length === 0 ? "It touches none" : seen.packs.length === 1 ? "It touches 1 pack" : `It touches ${seen.packs.length} packs`} of the {seen.looked_at}{" "}
        that are open{seen.left ? `; ${seen.left} more were not looked at` : ""}.
      </p>
      <ul className="m-0 max-h-72 list-none overflow-auto p-0">
        {seen.packs.map((p) => (
          <li key={p.id} className="border-b border-hair py-1">
            <span className="num font-semibold">{p.number}</span> {p.title}: <span className="text-soft">{p.changes.join(" ")}</span>
          </li>
        ))}
      </ul>
    </div>
  );
}

interface RowProps {
  question: Question;
  chosen: Chosen | undefined;
  fixed: boolean;
  onChange: (chosen: Chosen | null) => void;
}

/** One question: its answer, and the reason where it differs from the default. */
function Row({ question: q, chosen, fixed, onChange }: RowProps) {
  const first = q.answers[0]?.key ?? "";
  const value = chosen?.answer ?? first;
  return (
    <div data-question={q.key} className="grid grid-cols-[1fr_1.6fr_1.1fr] items-start gap-4 border-b border-hair py-2 text-sm max-[900px]:grid-cols-1">
      <span className={chosen ? "font-semibold" : ""}>
        {q.question}
        {q.touches.length ? <span className="block text-xs font-normal text-soft">Affects: {q.touches.map((t) => word("figure", t)).join(", ")}</span> : null}
      </span>
      <Select
        aria-label={q.question}
        value={value}
        disabled={fixed}
        options={q.answers.map((a, i) => [a.key, i === 0 ? `${a.words} (default)` : a.words] as const)}
        onChange={(e) => onChange(e.target.value === first ? null : { answer: e.target.value, reason: chosen?.reason ?? "" })}
      />
      {chosen ? (
        <TextInput
          aria-label={`Reason: ${q.question}`}
          placeholder="because …"
          value={chosen.reason}
          disabled={fixed}
          aria-invalid={chosen.reason.trim() === "" ? true : undefined}
          onChange={(e) => onChange({ ...chosen, reason: e.target.value })}
        />
      ) : (
        <span />
      )}
    </div>
  );
}
