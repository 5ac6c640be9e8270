import { useNavigate } from "@tanstack/react-router";
import { useRef, useState } from "react";
import { api, http, newId, type Schema, sentence } from "../../api/client";
import { fieldProblems } from "../../api/problems";
import { useKept } from "../../api/typing";
import { Button, Choice, Field, Heading, Lead, Page, Problem, Section, TextInput } from "../../ui";
import { ProjectField, useOneProject } from "../../planning";
import { typed as read, useFigures, useFollow, useFollowUnit } from "../../units";
import { Day, NO_DAY } from "./day";
import { GaugeChoice, gaugeBody, NO_GAUGE } from "./gauge";
import { chosen, Question } from "./question";

type Answers = Record<string, string>;

const NOTHING = { object: "", title: "", at_test: "", agreed: "", agreed_by: "", answers: {} as Answers, ...NO_GAUGE, ...NO_DAY };
const STEPS: [Schema["AskStep"], string][] = [
  ["pressure", "Which test, on which pressure?"],
  ["size", "How big?"],
  ["wall", "What wall, and what was measured?"],
];

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
  const lent = (kind: string) => instruments.data?.filter((i) => i.instrument.kind === kind && i.lent_to.includes(one.project)) ?? [];
  // what nothing is asked about has no place: a hose has no wall to measure
  const steps = STEPS.filter(([step]) => object?.ask.some((a) => a.step === step));
  // each object keeps its own answers: what is called alike is another figure there
  const own = (key: string) => `${object?.key} ${key}`;
  const answer = (key: string, text: string) => set({ answers: { ...typed.answers, [own(key)]: text } });
  const unitOf = (ask: Schema["Ask"]) => (ask.is === "pressure" ? show.symbol : ask.is === "temperature" ? warmth.symbol : ask.is === "time" ? "min" : "");
  const answers = Object.fromEntries(
    (object?.ask ?? []).map((a) => [a.key, unitOf(a) ? withUnit(typed.answers[own(a.key)] ?? "", unitOf(a)) : (typed.answers[own(a.key)] ?? "")]),
  );
  const body: Schema["QuickTest"] = {
    project: one.project || null,
    title: typed.title,
    object: object?.key ?? "",
    answers,
    agreed: withUnit(typed.agreed, show.symbol),
    agreed_by: typed.agreed_by,
    at_test: withUnit(typed.at_test, warmth.symbol) || (object?.at_test ?? ""),
    ...gaugeBody(typed, show.symbol),
    thermometer: typed.thermometer,
    hand_pump: typed.hand_pump === "yes",
    stroke: withUnit(typed.stroke, show.axis(0.00003, "volume_m3").symbol),
    signers: typed.signers,
  };
  // a plate of one code goes with the materials of that code
  const plates = (object?.ask ?? []).map((a) => chosen(a, typed.answers[own(a.key)] ?? "")?.materials ?? []).filter((m) => m.length);
  const submit = async () => {
    if (!object) return;
    if (!one.project) return setProblem("Say in which project this test is.");
    setBusy(true);
    setProblem("");
    try {
      const { data, error } = await http.PUT("/api/v1/quick/{id}", { params: { path: { id: id.current } }, body });
      if (data) {
        made();
        await navigate({ to: `/tests/${data.id}/page` as "/" });
        return;
      }
      const fields = fieldProblems(error);
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
            <Field label="What people call it" hint="Empty: what it is." error={wrong.title}>
              {(ids) => <TextInput {...ids} value={typed.title} onChange={(e) => set({ title: e.target.value })} maxLength={200} />}
            </Field>
          </Section>
        </div>
        <div className="grid gap-6">
          {object
            ? steps.map(([step, title], i) => (
                <Section key={step} title={`${i + 2}. ${title}`}>
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
                          goes={ask.materials?.filter((m) => plates.every((p) => p.includes(m)))}
                          onChange={(text) => answer(ask.key, text)}
                        />
                      ))}
                    {step === "pressure" && !object.ask.some((a) => a.into?.includes("plan:/basis/agreed_pressure_pa")) ? (
                      <Agreed typed={typed} set={set} wrong={wrong} />
                    ) : null}
                    {step === "pressure" ? (
                      <AtTest value={typed.at_test} usual={object.at_test ?? ""} error={wrong.at_test} onChange={(at_test) => set({ at_test })} />
                    ) : null}
                  </div>
                </Section>
              ))
            : null}
        </div>
        <Section title={`${steps.length + 2}. Which gauge?`}>
          <GaugeChoice typed={typed} set={set} gauges={lent("gauge")} body={body} wrong={wrong} />
        </Section>
        <Section title="On the day">
          <Day typed={typed} set={set} thermometers={lent("thermometer")} wrong={wrong} />
        </Section>
        <div className="grid gap-3 lg:col-span-2">
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

/** A figure above the rule's, with who asks it; most people leave it. */
function Agreed({
  typed,
  set,
  wrong,
}: {
  typed: { agreed: string; agreed_by: string };
  set: (more: { agreed?: string; agreed_by?: string }) => void;
  wrong: Record<string, string>;
}) {
  const show = useFigures();
  useFollowUnit(show.unit, typed.agreed, (agreed) => set({ agreed }));
  return (
    <>
      <Field label={`A higher test pressure, ${show.symbol}`} hint="Empty: what the rule asks, and no more." error={wrong.agreed}>
        {(ids) => <TextInput {...ids} value={typed.agreed} onChange={(e) => set({ agreed: e.target.value })} inputMode="decimal" />}
      </Field>
      {typed.agreed.trim() ? (
        <Field label="Who asks for it, and why" error={wrong.agreed_by}>
          {(ids) => <TextInput {...ids} value={typed.agreed_by} onChange={(e) => set({ agreed_by: e.target.value })} maxLength={200} />}
        </Field>
      ) : null}
    </>
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
