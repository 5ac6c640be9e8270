import { zodResolver } from "@hookform/resolvers/zod";
import { useNavigate } from "@tanstack/react-router";
import { useRef, useState } from "react";
import { useForm } from "react-hook-form";
import { z } from "../../ui/schema";
import { api, type GridRow, http, newId, type Plan, type Schema, sentence } from "../../api/client";
import { useTypingForm } from "../../api/typing-form";
import { useMe } from "../../api/session";
import { offeredOrNone, word } from "../../api/words";
import { PRESSURES } from "../../basis";
import { Button, Choice, Field, Heading, Lead, Page, Problem, Section, Select, TextInput } from "../../ui";
import { ProjectField, useOneProject } from "../../planning";
import { type Dimension, type Figures, inField, names, toPa, typed, useFigures, useFollow, useFollowUnit } from "../../units";

const PLAIN = { factor: 1, offset: 0 };
/** A figure with a unit or without. */
const number = (what: string, dimension: Dimension) =>
  z
    .string()
    .trim()
    .min(1, `${what} is missing.`)
    .refine((t) => typed(t, dimension, PLAIN).si != null, `${what} is a figure, for example 12.5.`);
const Form = z.object({
  title: z.string().trim().min(1, "Type what people call it."),
  object: z.string(),
  answer: z.string(),
  pressure: number("The pressure", "gauge_pressure_pa"),
  temperature: number("The design temperature", "temperature_c"),
  plate: z.string().refine((t) => typed(t, "gauge_pressure_pa", PLAIN).si !== undefined, "The pressure on the plate is a figure, for example 12.5."),
  seam: z.string(),
  at_test: number("The temperature at the test", "temperature_c"),
  size: z.string().trim().min(1, "Give the outside diameter with its unit, or a nominal size such as DN150."),
  extent: z
    .string()
    .trim()
    .min(1, "Give the volume, or the length of the pipe, with its unit.")
    .refine((t) => names(t, "volume_m3") || names(t, "length_m"), "Is this a volume or a length? Write the unit after it."),
  wall: z.string().trim().min(1, "Measure the wall at its thinnest place: without it there is no test pressure."),
  material: z.string().min(1, "Choose the material."),
  gauge: z.string().min(1, "Choose the gauge that you will read."),
});
type Values = z.infer<typeof Form>;

/** What somebody might type, in the lengths and volumes that they read. */
const IN_METRES = { boiler: "152\u00a0mm", receiver: "400\u00a0mm", thinnest: "3\u00a0mm", wall: "7.11\u00a0mm", extent: "120\u00a0m" };
const IN_FEET: typeof IN_METRES = { boiler: "6\u00a0in", receiver: "16\u00a0in", thinnest: "0.12\u00a0in", wall: "0.28\u00a0in", extent: "400\u00a0ft" };
const WATER = { litre: { water: "2.4\u00a0L" }, us_gallon: { water: "0.6\u00a0US\u00a0gal" }, imperial_gallon: { water: "0.5\u00a0imp\u00a0gal" } };

type Quick = Schema["QuickObject"];
/** Fields of the basis by what it asks. */
const FIELD = { ...Object.fromEntries(PRESSURES), design_temperature: "design_temperature_c" } as Record<Schema["Asked"], keyof Schema["Basis"]>;

/** Plan and one part from the five answers. */
function answers(f: Values, o: Quick, show: Figures, me: string): { plan: Plan; rows: GridRow[] } {
  const bar = { factor: 1 / toPa(1, show.unit), offset: 0 };
  const pa = (text: string) => typed(text, "gauge_pressure_pa", bar).si;
  const celsius = (text: string) => typed(text, "temperature_c", show.unitFor("temperature_c")).si;
  const basis = {
    id: o.basis,
    [FIELD[o.pressure]]: pa(f.pressure),
    ...(o.also.includes("plate_pressure") && f.plate.trim() ? { plate_pressure_pa: pa(f.plate) } : {}),
    ...(o.also.includes("design_temperature") ? { design_temperature_c: celsius(f.temperature) } : {}),
    ...(o.question && f.answer ? { choices: { [o.question]: f.answer } } : {}),
  };
  const plan = {
    object: o.object,
    claim: "both",
    why_now: f.answer === "later" ? "due" : "new",
    basis,
    worked_in: show.unit,
    water_temperature_c: celsius(f.at_test),
    site: { metal_c: celsius(f.at_test) },
    gauge_tag: f.gauge,
    gauge_elevation_m: 0,
    schedule: o.schedule,
    people: { performs: me },
  } as unknown as Plan;
  const volume = names(f.extent, "volume_m3");
  const cells = {
    tag: o.tag,
    kind: o.kind,
    height: "0",
    size: f.size,
    wall: f.wall,
    material: f.material,
    [volume ? "volume" : "length"]: f.extent,
    ...(o.body && f.seam ? { seam: f.seam } : {}),
  };
  return { plan, rows: [{ typed: cells }] };
}

export function QuickTest() {
  const me = useMe();
  const navigate = useNavigate();
  const show = useFigures();
  const example = { ...(show.units.length === "foot" ? IN_FEET : IN_METRES), ...WATER[show.units.volume] };
  const unit = show.unit;
  const warmth = show.unitFor("temperature_c");
  const one = useOneProject((p) => p.may_make_quick);
  const library = api.useQuery("get", "/api/v1/library");
  const instruments = api.useQuery("get", "/api/v1/instruments");
  const [problem, setProblem] = useState("");
  const id = useRef(newId());
  const form = useForm<Values>({
    resolver: zodResolver(Form),
    defaultValues: {
      title: "",
      object: "",
      answer: "",
      pressure: "",
      temperature: inField(38, warmth),
      plate: "",
      seam: "",
      at_test: inField(15, warmth),
      size: "",
      extent: "",
      wall: "",
      material: "",
      gauge: "",
    },
  });
  const { errors, isSubmitting } = form.formState;
  const typing = useTypingForm(form, `quick test in ${show.symbol} ${warmth.symbol}`, "the quick test");
  useFollowUnit(unit, form.watch("pressure"), (text) => form.setValue("pressure", text));
  useFollowUnit(unit, form.watch("plate"), (text) => form.setValue("plate", text));
  useFollow(warmth, form.watch("temperature"), (text) => form.setValue("temperature", text));
  useFollow(warmth, form.watch("at_test"), (text) => form.setValue("at_test", text));
  const objects = library.data?.quick ?? [];
  const object = objects.find((o) => o.object === form.watch("object")) ?? objects[0];
  const question = library.data?.bases.find((b) => b.id === object?.basis)?.choices.find((c) => c.key === object?.question);
  const answer = question?.options.find((o) => o.key === form.watch("answer")) ?? question?.options[0];
  const body = object?.body ?? true;
  const plate = object?.also.includes("plate_pressure");
  const gauges = instruments.data?.filter((i) => i.instrument.kind === "gauge" && i.lent_to.includes(one.project)) ?? [];
  const gauge = gauges.find((g) => g.instrument.tag === form.watch("gauge"));
  const submit = form.handleSubmit(async (f) => {
    setProblem("");
    if (!object) return;
    if (!one.project) return setProblem("Say in which project this test is.");
    try {
      const { data, error } = await http.PUT("/api/v1/packs/{id}", {
        params: { path: { id: id.current } },
        body: { project: one.project, number: "", title: f.title, form: "quick", ...answers({ ...f, answer: answer?.key ?? "" }, object, show, me.sign_in) },
      });
      if (data) {
        typing.done();
        await navigate({ to: `/tests/${data.id}/prove` as "/" });
      } else setProblem(sentence(error));
    } catch (e) {
      setProblem(sentence(e));
    }
  });
  return (
    <Page>
      <Heading>A quick test: five answers</Heading>
      <Lead>One body, one page. It may be signed by the one person who did it, and then is the owner's information, not a certificate.</Lead>
      <form onSubmit={submit} className="grid items-start gap-x-10 gap-y-6 lg:grid-cols-2" noValidate>
        <div className="grid gap-6">
          <Section title="1. What is it?">
            <ProjectField of={one} />
            <Choice
              legend="Kind of object"
              name="object"
              value={object?.object ?? ""}
              onChange={(v) => form.setValue("object", v, { shouldDirty: true })}
              options={objects.map((o) => [o.object, o.words, o.more] as const)}
            />
            <Field label="What people call it" error={errors.title?.message}>
              {(ids) => <TextInput {...ids} {...form.register("title")} />}
            </Field>
          </Section>
          <Section title="2. Which test, on which pressure?">
            {question ? (
              <Choice
                legend={question.question}
                name="answer"
                value={answer?.key ?? ""}
                onChange={(v) => form.setValue("answer", v, { shouldDirty: true })}
                options={question.options.map((o) => [o.key, o.words, object?.means.find((m) => m.answer === o.key)?.words ?? ""] as const)}
              />
            ) : null}
            <div className="grid grid-cols-2 gap-4">
              <Field label={`${word("asked", object?.pressure ?? "working_pressure")}, ${show.symbol}`} error={errors.pressure?.message}>
                {(ids) => <TextInput {...ids} {...form.register("pressure")} inputMode="decimal" />}
              </Field>
              {plate ? (
                <Field
                  label={`${word("asked", "plate_pressure")}, ${show.symbol}`}
                  hint="Without wall and plate there is no test pressure."
                  error={errors.plate?.message}
                >
                  {(ids) => <TextInput {...ids} {...form.register("plate")} inputMode="decimal" />}
                </Field>
              ) : null}
              {body ? null : (
                <Field label={`Design temperature, ${warmth.symbol}`} error={errors.temperature?.message}>
                  {(ids) => <TextInput {...ids} {...form.register("temperature")} inputMode="decimal" />}
                </Field>
              )}
              <Field label={`Water and metal at the test, ${warmth.symbol}`} hint="What is expected; both the same." error={errors.at_test?.message}>
                {(ids) => <TextInput {...ids} {...form.register("at_test")} inputMode="decimal" />}
              </Field>
            </div>
          </Section>
        </div>
        <div className="grid gap-6">
          <Section title="3. How big?">
            <div className="grid grid-cols-2 gap-4">
              <Field label="Size" hint="Outside diameter with its unit, or a nominal size such as DN150." error={errors.size?.message}>
                {(ids) => <TextInput {...ids} {...form.register("size")} placeholder={plate ? example.receiver : body ? example.boiler : "DN150"} />}
              </Field>
              <Field label={body ? "Volume of water" : "Length or volume"} hint={`For example ${body ? example.water : example.extent}.`} error={errors.extent?.message}>
                {(ids) => <TextInput {...ids} {...form.register("extent")} />}
              </Field>
            </div>
          </Section>
          <Section title="4. Which wall?">
            <div className="grid grid-cols-2 gap-4">
              <Field
                label="Wall"
                hint={body ? `Measured at the thinnest place, for example ${example.thinnest}.` : `For example sch 40, or ${example.wall}.`}
                error={errors.wall?.message}
              >
                {(ids) => <TextInput {...ids} {...form.register("wall")} />}
              </Field>
              <Field label="Material" error={errors.material?.message}>
                {(ids) => (
                  <Select {...ids} {...form.register("material")} options={[["", "choose"], ...(library.data?.materials ?? []).map((m) => [m.id, m.name] as const)]} />
                )}
              </Field>
              {body ? (
                <Field label="Seam of the shell" hint="Leave empty if nobody knows: then 0.7 of the wall counts." error={errors.seam?.message}>
                  {(ids) => <Select {...ids} {...form.register("seam")} options={offeredOrNone("seam", "not looked at")} />}
                </Field>
              ) : null}
            </div>
          </Section>
          <Section title="5. Which gauge?">
            <Field label="Gauge" hint={gauge?.objection ?? "From the instrument store, where its certificate is kept."} error={errors.gauge?.message}>
              {(ids) => (
                <Select
                  {...ids}
                  {...form.register("gauge")}
                  options={[["", "choose"], ...gauges.map((g) => [g.instrument.tag, `${g.instrument.tag}${g.objection ? " (out of date)" : ""}`] as const)]}
                />
              )}
            </Field>
          </Section>
          <Problem>{problem}</Problem>
          <div>
            <Button type="submit" kind="main" size="large" disabled={isSubmitting}>
              Derive the test
            </Button>{" "}
            <span role="status" className="text-sm text-soft">
              {isSubmitting ? "" : typing.words}
            </span>
          </div>
        </div>
      </form>
    </Page>
  );
}
