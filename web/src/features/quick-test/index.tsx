import { zodResolver } from "@hookform/resolvers/zod";
import { useNavigate } from "@tanstack/react-router";
import { useRef, useState } from "react";
import { useForm } from "react-hook-form";
import { z } from "../../ui/schema";
import { api, type GridRow, http, newId, type Plan, sentence } from "../../api/client";
import { useMe } from "../../api/session";
import { Button, Choice, Field, Heading, Lead, Page, Problem, Section, Select, TextInput } from "../../ui";
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
  object: z.enum(["miniature_boiler", "air_receiver", "process_piping"]),
  occasion: z.enum(["first", "later"]),
  pressure: number("The pressure", "gauge_pressure_pa"),
  temperature: number("The design temperature", "temperature_c"),
  plate: z.string().refine((t) => typed(t, "gauge_pressure_pa", PLAIN).si !== undefined, "The pressure on the plate is a figure, for example 12.5."),
  code_year: z.enum(["from_mid_1999", "before_mid_1999", "en_286_1"]),
  seam: z.enum(["", "seamless", "full", "spot", "not known", "riveted"]),
  at_test: number("The temperature at the test", "temperature_c"),
  size: z.string().trim().min(1, "Give the outside diameter with its unit, or a nominal size such as DN150."),
  extent: z
    .string()
    .trim()
    .min(1, "Give the volume, or the length of the pipe, with its unit.")
    .refine((t) => names(t, "volume_m3") || names(t, "length_m"), "Is this a volume or a length? Write its unit behind it."),
  wall: z.string().trim().min(1, "Measure the wall at its thinnest place: without it there is no test pressure."),
  material: z.string().min(1, "Choose the material."),
  gauge: z.string().min(1, "Choose the gauge that you will read."),
});
type Values = z.infer<typeof Form>;

/** What somebody might type, in the lengths and volumes that they read. */
const IN_METRES = { boiler: "152\u00a0mm", receiver: "400\u00a0mm", thinnest: "3\u00a0mm", wall: "7.11\u00a0mm", extent: "120\u00a0m" };
const IN_FEET: typeof IN_METRES = { boiler: "6\u00a0in", receiver: "16\u00a0in", thinnest: "0.12\u00a0in", wall: "0.28\u00a0in", extent: "400\u00a0ft" };
const WATER = { litre: { water: "2.4\u00a0L" }, us_gallon: { water: "0.6\u00a0US\u00a0gal" }, imperial_gallon: { water: "0.5\u00a0imp\u00a0gal" } };

/** Plan and one part from the five answers. */
function answers(f: Values, show: Figures, me: string): { plan: Plan; rows: GridRow[] } {
  const boiler = f.object === "miniature_boiler";
  const receiver = f.object === "air_receiver";
  const bar = { factor: 1 / toPa(1, show.unit), offset: 0 };
  const pa = (text: string) => typed(text, "gauge_pressure_pa", bar).si;
  const celsius = (text: string) => typed(text, "temperature_c", show.unitFor("temperature_c")).si;
  const pressure = pa(f.pressure);
  const basis = boiler
    ? { id: "boiler_model", working_pressure_pa: pressure, choices: { occasion: f.occasion } }
    : receiver
      ? {
          id: "air_receiver",
          working_pressure_pa: pressure,
          ...(f.plate.trim() ? { plate_pressure_pa: pa(f.plate) } : {}),
          choices: { code_year: f.code_year },
        }
      : { id: "b31_3", design_pressure_pa: pressure, design_temperature_c: celsius(f.temperature) };
  const plan = {
    object: f.object,
    claim: "both",
    why_now: f.occasion === "first" ? "new" : "due",
    basis,
    worked_in: show.unit,
    water_temperature_c: celsius(f.at_test),
    site: { metal_c: celsius(f.at_test) },
    gauge_tag: f.gauge,
    gauge_elevation_m: 0,
    schedule: boiler || receiver ? "small_boiler" : "quarters",
    people: { performs: me },
  } as unknown as Plan;
  const volume = names(f.extent, "volume_m3");
  const cells = {
    tag: boiler ? "Boiler shell" : receiver ? "Receiver" : "Pipe",
    kind: boiler ? "boiler" : receiver ? "vessel" : "pipe",
    height: "0",
    size: f.size,
    wall: f.wall,
    material: f.material,
    [volume ? "volume" : "length"]: f.extent,
    ...((boiler || receiver) && f.seam ? { seam: f.seam } : {}),
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
  const library = api.useQuery("get", "/api/v1/library");
  const instruments = api.useQuery("get", "/api/v1/instruments");
  const [problem, setProblem] = useState("");
  const id = useRef(newId());
  const form = useForm<Values>({
    resolver: zodResolver(Form),
    defaultValues: {
      title: "",
      object: "miniature_boiler",
      occasion: "first",
      pressure: "",
      temperature: inField(38, warmth),
      plate: "",
      code_year: "from_mid_1999",
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
  useFollowUnit(unit, form.watch("pressure"), (text) => form.setValue("pressure", text));
  useFollowUnit(unit, form.watch("plate"), (text) => form.setValue("plate", text));
  useFollow(warmth, form.watch("temperature"), (text) => form.setValue("temperature", text));
  useFollow(warmth, form.watch("at_test"), (text) => form.setValue("at_test", text));
  const object = form.watch("object");
  const occasion = form.watch("occasion");
  const boiler = object === "miniature_boiler";
  const receiver = object === "air_receiver";
  const body = boiler || receiver;
  const gauges = instruments.data?.filter((i) => i.instrument.kind === "gauge") ?? [];
  const gauge = gauges.find((g) => g.instrument.tag === form.watch("gauge"));
  const submit = form.handleSubmit(async (f) => {
    setProblem("");
    try {
      const { data, error } = await http.PUT("/api/v1/packs/{id}", {
        params: { path: { id: id.current } },
        body: { number: "", title: f.title, form: "quick", ...answers(f, show, me.sign_in) },
      });
      if (data) await navigate({ to: `/tests/${data.id}/prove` as "/" });
      else setProblem(sentence(error));
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
            <Choice
              legend="Kind of object"
              name="object"
              value={object}
              onChange={(v) => form.setValue("object", v as Values["object"])}
              options={[
                ["miniature_boiler", "Miniature boiler", "club practice"],
                ["air_receiver", "Air receiver", "second-hand, with water"],
                ["process_piping", "Process piping", "ASME B31.3, water"],
              ]}
            />
            <Field label="What people call it" error={errors.title?.message}>
              {(ids) => <TextInput {...ids} {...form.register("title")} />}
            </Field>
          </Section>
          <Section title="2. Which test, on which pressure?">
            {boiler ? (
              <Choice
                legend="Occasion"
                name="occasion"
                value={occasion}
                onChange={(v) => form.setValue("occasion", v as Values["occasion"])}
                options={[
                  ["first", "First test", "twice the working pressure"],
                  ["later", "Later test", "1.5 times the working pressure"],
                ]}
              />
            ) : null}
            {receiver ? (
              <Choice
                legend="Built under a code year"
                name="code_year"
                value={form.watch("code_year")}
                onChange={(v) => form.setValue("code_year", v as Values["code_year"])}
                options={[
                  ["from_mid_1999", "From mid-1999", "its plate bears 1.3 times"],
                  ["before_mid_1999", "Before", "its plate bears 1.5 times"],
                  ["en_286_1", "EN 286-1", "its plate bears 1.5 times, whatever the year"],
                ]}
              />
            ) : null}
            <div className="grid grid-cols-2 gap-4">
              <Field label={`${body ? "Working" : "Design"} pressure, ${show.symbol}`} error={errors.pressure?.message}>
                {(ids) => <TextInput {...ids} {...form.register("pressure")} inputMode="decimal" />}
              </Field>
              {receiver ? (
                <Field label={`Pressure on the plate, ${show.symbol}`} hint="Without wall and plate there is no test pressure." error={errors.plate?.message}>
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
                {(ids) => <TextInput {...ids} {...form.register("size")} placeholder={boiler ? example.boiler : receiver ? example.receiver : "DN150"} />}
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
                <Field label="Seam of the shell" hint="Empty: as a seam that nobody knows, 0.7 of the wall counts." error={errors.seam?.message}>
                  {(ids) => (
                    <Select
                      {...ids}
                      {...form.register("seam")}
                      options={[
                        ["", "not looked at"],
                        ["seamless", "none: seamless, or a tube"],
                        ["full", "welded, fully examined"],
                        ["spot", "welded, spot examined"],
                        ["not known", "welded, examination not known"],
                        ["riveted", "riveted"],
                      ]}
                    />
                  )}
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
            </Button>
          </div>
        </div>
      </form>
    </Page>
  );
}
