import { useNavigate } from "@tanstack/react-router";
import { useRef, useState } from "react";
import { api, http, newId, type Schema, sentence } from "../../api/client";
import { useKept } from "../../api/typing";
import { Button, Choice, Field, Heading, Lead, Page, Problem, Section, Select, TextInput } from "../../ui";
import { ProjectField, useOneProject } from "../../planning";
import { type Figures, typed as read, useFigures, useFollow } from "../../units";
import { Question } from "./question";

type Answers = Record<string, string>;

const NOTHING = { object: "", title: "", at_test: "", gauge: "", answers: {} as Answers };
const STEPS: [Schema["AskStep"], string][] = [
  ["pressure", "2. Which test, on which pressure?"],
  ["size", "3. How big?"],
  ["wall", "4. What wall, and what was measured?"],
];

/** What is wrong with each field, as the server says it: all of it at once. */
function byField(error: unknown): Record<string, string> {
  const fields = error && typeof error === "object" && "fields" in error && Array.isArray(error.fields) ? (error.fields as Schema["FieldProblem"][]) : [];
  return Object.fromEntries(fields.map((f) => [f.field, f.sentence]));
}

/** A gauge of the store as somebody chooses one: how far it reads, to which mark, and until when. */
function gaugeWords({ instrument: i, objection }: Schema["InstrumentView"], show: Figures): string {
  const range = i.full_scale_pa == null ? "range not known" : `0 to ${show.free(i.full_scale_pa)}`;
  const marks = i.division_pa == null ? "" : `, smallest mark ${show.free(i.division_pa)}`;
  const until = objection ? "not in date" : i.valid_until ? `calibrated until ${i.valid_until}` : "not calibrated";
  return `${i.tag}: ${range}${marks}, ${until}`;
}

/** A figure with its unit, where a bare one was typed. */
const withUnit = (text: string, symbol: string) => (/^[\d.,\s−+-]+$/.test(text.trim()) && text.trim() ? `${text.trim()} ${symbol}` : text.trim());

export function QuickTest() {
  const navigate = useNavigate();
  const show = useFigures();
  const warmth = show.unitFor("temperature_c");
  const one = useOneProject((p) => p.may_make_quick);
  const library = api.useQuery("get", "/api/v1/library");
  const instruments = api.useQuery("get", "/api/v1/instruments");
  const [typed, set, made] = useKept(`quick test in ${show.symbol} ${warmth.symbol}`, "the quick test", NOTHING);
  const [wrong, setWrong] = useState<Record<string, string>>({});
  const [problem, setProblem] = useState("");
  const [busy, setBusy] = useState(false);
  const id = useRef(newId());
  const objects = library.data?.quick ?? [];
  const object = objects.find((o) => o.key === typed.object) ?? objects[0];
  const gauges = instruments.data?.filter((i) => i.instrument.kind === "gauge" && i.lent_to.includes(one.project)) ?? [];
  // each object keeps its own answers: what is called alike is another figure there
  const own = (key: string) => `${object?.key} ${key}`;
  const answer = (key: string, text: string) => set({ answers: { ...typed.answers, [own(key)]: text } });
  const submit = async () => {
    if (!object) return;
    if (!one.project) return setProblem("Say in which project this test is.");
    setBusy(true);
    setProblem("");
    const unitOf = (ask: Schema["Ask"]) => (ask.is === "pressure" ? show.symbol : ask.is === "temperature" ? warmth.symbol : ask.is === "time" ? "min" : "");
    const answers = Object.fromEntries(
      object.ask.map((a) => [a.key, unitOf(a) ? withUnit(typed.answers[own(a.key)] ?? "", unitOf(a)) : (typed.answers[own(a.key)] ?? "")]),
    );
    const body = {
      project: one.project,
      title: typed.title,
      object: object.key,
      answers,
      at_test: withUnit(typed.at_test, warmth.symbol) || (object.at_test ?? ""),
      gauge: typed.gauge,
    };
    try {
      const { data, error } = await http.PUT("/api/v1/quick/{id}", { params: { path: { id: id.current } }, body });
      if (data) {
        made();
        await navigate({ to: `/tests/${data.id}/prove` as "/" });
        return;
      }
      const fields = byField(error);
      setWrong(fields);
      setProblem(Object.keys(fields).length ? "Some answers are missing, or cannot be used: each says what to do." : sentence(error));
    } catch (e) {
      setProblem(sentence(e));
    } finally {
      setBusy(false);
    }
  };
  return (
    <Page>
      <Heading>A quick test: five answers</Heading>
      <Lead>One body, one page. It may be signed by the one person who did it, and then is the owner's information, not a certificate.</Lead>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void submit();
        }}
        className="grid items-start gap-x-10 gap-y-6 lg:grid-cols-2"
        noValidate
      >
        <div className="grid gap-6">
          <Section title="1. What is it?">
            <ProjectField of={one} />
            <Choice
              even
              legend="Kind of object"
              name="object"
              value={object?.key ?? ""}
              onChange={(v) => {
                setWrong({});
                set({ object: v });
              }}
              options={objects.map((o) => [o.key, o.words, o.more] as const)}
            />
            <Field label="What people call it" error={wrong.title}>
              {(ids) => <TextInput {...ids} value={typed.title} onChange={(e) => set({ title: e.target.value })} maxLength={200} />}
            </Field>
          </Section>
        </div>
        <div className="grid gap-6">
          {object
            ? STEPS.map(([step, title]) => (
                <Section key={step} title={title}>
                  <div className="grid grid-cols-2 items-start gap-4 max-[500px]:grid-cols-1">
                    {object.ask
                      .filter((a) => a.step === step)
                      .map((ask) => (
                        <Question
                          key={`${object.key} ${ask.key}`}
                          ask={ask}
                          value={typed.answers[own(ask.key)] ?? ""}
                          error={wrong[`answers.${ask.key}`]}
                          materials={library.data?.materials ?? []}
                          onChange={(text) => answer(ask.key, text)}
                        />
                      ))}
                    {step === "pressure" ? (
                      <AtTest value={typed.at_test} usual={object.at_test ?? ""} error={wrong.at_test} onChange={(at_test) => set({ at_test })} />
                    ) : null}
                  </div>
                </Section>
              ))
            : null}
          <Section title="5. Which gauge?">
            <Field
              label="Gauge"
              hint={gauges.find((g) => g.instrument.tag === typed.gauge)?.objection ?? "From the instrument store, where its certificate is kept."}
              error={wrong.gauge}
            >
              {(ids) => (
                <Select
                  {...ids}
                  value={typed.gauge}
                  onChange={(e) => set({ gauge: e.target.value })}
                  options={[["", "choose"], ...gauges.map((g) => [g.instrument.tag, gaugeWords(g, show)] as const)]}
                />
              )}
            </Field>
          </Section>
          <Problem>{problem}</Problem>
          <div>
            <Button type="submit" kind="main" size="large" disabled={busy}>
              Derive the test
            </Button>
          </div>
        </div>
      </form>
    </Page>
  );
}

/** How warm water and metal are at the test; where nobody says, what is usual for such an object. */
function AtTest({ value, usual, error, onChange }: { value: string; usual: string; error: string | undefined; onChange: (text: string) => void }) {
  const show = useFigures();
  const warmth = show.unitFor("temperature_c");
  useFollow(warmth, value, onChange);
  const said = read(usual, "temperature_c", { factor: 1, offset: 0 }).si;
  return (
    <Field
      label={`Water and metal at the test, ${warmth.symbol}`}
      hint={`What is expected; both the same. Empty: ${said == null ? usual : show.of(said, "temperature_c")}.`}
      error={error}
    >
      {(ids) => <TextInput {...ids} value={value} onChange={(e) => onChange(e.target.value)} inputMode="decimal" />}
    </Field>
  );
}
