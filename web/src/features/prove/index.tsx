import { zodResolver } from "@hookform/resolvers/zod";
import { useEffect, useState } from "react";
import { type UseFormReturn, useForm } from "react-hook-form";
import { z } from "../../ui/schema";
import { useTypingForm } from "../../api/typing-form";
import { api, isOutrun, type Plan, problemField, type Schema, sentence } from "../../api/client";
import { usePack, usePackActions } from "../../api/pack";
import { BasisFields, BasisForm, type BasisInfo, basisOf, basisValues, MINUTES, PRESSURES, type WithBasis } from "../../basis";
import { useAgainst } from "../../api/against";
import { Objections } from "../../follows";
import { Keeping } from "../../planning";
import { GasPictures } from "../../pictures/energy";
import { offered, offeredOrNone, terms } from "../../api/words";
import { Button, Choice, Field, Heading, Lead, Note, Page, Section, Select, TextInput } from "../../ui";

import { MethodFields } from "./method-fields";
import { HoldPromise } from "./promise";
import { isDay } from "../../api/zone";
import { type Dimension, type Figures, inField, SYMBOL, typed, UNITS, useFigures, useFollow } from "../../units";

const number = (what: string) =>
  z
    .string()
    .trim()
    .refine((t) => t !== "" && Number.isFinite(Number(t.replace(",", "."))), `${what} is a number.`);
const PLAIN = { factor: 1, offset: 0 };
/** A figure with a unit or without. */
const amount = (what: string, dimension: Dimension) => z.string().refine((t) => typed(t, dimension, PLAIN).si != null, `${what} is a figure, for example 12.5.`);
/** The units that stand beside the fields of this form. */
const besides = (show: Figures) => ({
  water: show.unitFor("temperature_c"),
  cooling: show.unitFor("temperature_difference_k"),
  sensitivity: show.unitFor("leak_m3_per_s"),
});
const Form = z
  .object({
    title: z.string().trim().min(1, "Type what people call it."),
    claim: z.enum(["both", "strength", "tightness"]),
    why_now: z.enum(["new", "altered", "repaired", "due", "unknown_history", "restart"]),
    relied_on_by: z.string(),
    next_on: z.string().refine((t) => t.trim() === "" || isDay(t.trim()), "Write the day as 2027-06-01."),
    next_by: z.string().max(120, "Say it in 120 characters."),
    run: z.enum(["record", "rehearsal", "practice"]),
    basis: BasisForm,
    hold: z.string().refine((t) => (typed(t, "time_s", MINUTES).si ?? 0) > 0, "The hold is a time above zero, for example 60 or 1 h."),
    water: amount("The water's temperature", "temperature_c"),
    cooling: amount("The cooling", "temperature_difference_k"),
    exposure: z.enum(["", "bare_outdoor", "insulated", "indoor", "buried"]),
    worked_in: z.enum(["bar", "kpa", "mpa", "psi", "kg_cm2"]),
    accumulation: number("The accumulation"),
    schedule: z.enum(["quarters", "three_stage", "small_boiler", "joint", "pneumatic_fine", "pneumatic_vessel"]),
    gas_supply: z.enum(["", "regulated", "regulated_compressor", "open_line"]),
    gas_in_charge: z.string(),
    sensitivity: z.string().refine((t) => {
      const { si } = typed(t, "leak_m3_per_s", PLAIN);
      return si === null || (si !== undefined && si > 0);
    }, "A leak to rule out is a figure above zero; leave it empty where none is asked."),
  })
  .refine((f) => !f.next_on.trim() || f.next_by.trim() !== "", { path: ["next_by"], message: "Say by which rule, or whose word, it is due on that day." });
type Values = z.infer<typeof Form>;
const read = (t: string) => Number(t.replace(",", "."));

function valuesOf(plan: Plan, title: string, show: Figures, hold: number): Values {
  const beside = besides(show);
  return {
    title,
    claim: plan.claim,
    why_now: plan.why_now,
    relied_on_by: plan.relied_on_by ?? "",
    next_on: plan.next_test?.on ?? "",
    next_by: plan.next_test?.by ?? "",
    run: plan.run ?? "record",
    basis: basisValues(plan.basis, show),
    hold: String(hold / 60),
    water: inField(plan.water_temperature_c, beside.water),
    cooling: inField(plan.settings?.expected_cooling_k ?? 0.1, beside.cooling),
    exposure: plan.exposure ?? "",
    schedule: plan.schedule ?? "quarters",
    worked_in: plan.worked_in ?? "bar",
    accumulation: String(Number(((plan.settings?.relief_accumulation ?? 0.1) * 100).toPrecision(6))),
    gas_supply: plan.gas_supply ?? "",
    gas_in_charge: plan.gas_in_charge ?? "",
    sensitivity: inField(plan.required_sensitivity_m3_per_s, beside.sensitivity),
  };
}

function planOf(f: Values, before: Plan, show: Figures, bases: readonly BasisInfo[], objects: Schema["Library"]["objects"]): Plan {
  const beside = besides(show);
  const info = bases.find((b) => b.id === f.basis.id);
  const beneath = info?.on_top ? bases.find((b) => b.id === f.basis.on_top_of) : undefined;
  return {
    ...before,
    object: objects[f.basis.id] ?? before.object,
    claim: f.claim,
    why_now: f.why_now,
    relied_on_by: f.relied_on_by,
    next_test: f.next_on.trim() || f.next_by.trim() ? { on: f.next_on.trim(), by: f.next_by.trim() } : null,
    run: f.run,
    basis: basisOf(f.basis, show, info, beneath),
    hold_s: typed(f.hold, "time_s", MINUTES).si ?? undefined,
    water_temperature_c: typed(f.water, "temperature_c", beside.water).si ?? before.water_temperature_c,
    exposure: f.exposure || null,
    schedule: f.schedule,
    worked_in: f.worked_in,
    gas_supply: f.gas_supply || null,
    gas_in_charge: f.gas_in_charge,
    settings: {
      ...before.settings,
      expected_cooling_k: typed(f.cooling, "temperature_difference_k", beside.cooling).si ?? 0.1,
      relief_accumulation: read(f.accumulation) / 100,
    } as Schema["Settings"],
    required_sensitivity_m3_per_s: typed(f.sensitivity, "leak_m3_per_s", beside.sensitivity).si ?? null,
  };
}

/** Fields under which a refusal stands; any other refusal stands below the form. */
const SHOWN_IN_PLACE: readonly string[] = [
  "hold_s",
  "water_temperature_c",
  "expected_cooling_k",
  "relief_accumulation",
  "basis",
  "medium",
  "choices",
  "on_top_of",
  "over_test_reason",
  "design_temperature_c",
  "agreed_hold_s",
  "owners_fall",
  ...PRESSURES.map((p) => p[1]),
];

/** The answer in one sentence. */
function sentenceOf(name: string, medium: Schema["Medium"]): string {
  const by = `${name.charAt(0).toUpperCase()}${name.slice(1)}`;
  if (medium !== "liquid") return `${by}, with ${medium}. Gas only for a written reason: it stores hundreds to tens of thousands of times the energy of water.`;
  return `${by}, with water. Water, not gas: the same volume of gas stores hundreds to tens of thousands of times the energy.`;
}

export function Prove() {
  const pack = usePack();
  const actions = usePackActions();
  const show = useFigures(pack);
  const unit = show.unit;
  const [problem, setProblem] = useState<{ text: string; field?: string } | null>(null);
  const [saved, setSaved] = useState(false);
  // what the typing began on; a newer version is taken over only while nothing is typed
  const [base, setBase] = useState(pack);
  const form = useForm<Values>({ resolver: zodResolver(Form), defaultValues: valuesOf(pack.plan, pack.title, show, pack.hold_s) });
  const { errors, isSubmitting, isDirty } = form.formState;
  const beside = besides(show);
  useFollow(beside.water, form.watch("water"), (text) => form.setValue("water", text));
  useFollow(beside.cooling, form.watch("cooling"), (text) => form.setValue("cooling", text));
  useFollow(beside.sensitivity, form.watch("sensitivity"), (text) => form.setValue("sensitivity", text));
  const library = api.useQuery("get", "/api/v1/library");
  const bases = library.data?.bases ?? [];
  const info = bases.find((b) => b.id === form.watch("basis.id"));
  const floor = form.watch("basis.medium") === "liquid" ? info?.hold_floor_s : info?.hold_floor_gas_s;
  const ownersFall = read(form.watch("basis.owners_fall_hours")) * 3600;
  const gas = form.watch("basis.medium") !== "liquid";
  const schedule = form.watch("schedule");
  const raiseOf = (name: string) => terms("gas_schedule").some((t) => t.key === name);
  useEffect(() => {
    // gas is raised by a schedule for gas, liquid by one for liquid
    if (raiseOf(schedule) !== gas) form.setValue("schedule", gas ? "pneumatic_fine" : "quarters", { shouldDirty: isDirty });
  });
  const fixed = !pack.may.plan || Boolean(pack.locked);
  const typing = useTypingForm(form, `plan of ${pack.id} in ${Object.values(beside).map((b) => b.symbol)} ${show.symbol}`, "what it must show", !fixed);
  const why = api.useQuery("get", "/api/v1/packs/{id}/why/{figure}", { params: { path: { id: pack.id, figure: "required" } } }, { enabled: Boolean(pack.derived) });
  const adopt = (next: typeof pack, keepDirtyValues: boolean) => {
    setBase(next);
    form.reset(valuesOf(next.plan, next.title, show, next.hold_s), { keepDirtyValues });
  };
  useEffect(() => {
    if (base.version !== pack.version && !isDirty && !isSubmitting) adopt(pack, false);
  });
  const submit = form.handleSubmit(async (f) => {
    setProblem(null);
    try {
      adopt(await actions.plan(planOf(f, base.plan, show, bases, library.data?.objects ?? {}), f.title, base.version), false);
      typing.done();
      setSaved(true);
    } catch (e) {
      setProblem({ text: sentence(e), field: problemField(e) });
      if (isOutrun(e)) adopt(await actions.newest(), true);
    }
  });
  const against = useAgainst();
  const claim = form.watch("claim");
  const words = { both: "hold, and let nothing out", strength: "hold", tightness: "let nothing out" }[claim];
  return (
    <Page>
      <Heading>This test must show that the parts {words}.</Heading>
      <Lead>{sentenceOf(info?.name ?? pack.plan.basis.id, form.watch("basis.medium"))}</Lead>
      {pack.locked ? (
        <Note kind="plain">{pack.locked}</Note>
      ) : pack.may.plan ? null : (
        <Note kind="plain">Engineer and supervisor change this; you see it as it stands.</Note>
      )}
      <Objections here="prove" />
      <form onSubmit={submit} onChange={() => setSaved(false)} className="grid gap-6" noValidate>
        <fieldset disabled={fixed} className="m-0 grid gap-6 border-0 p-0">
          <Section title="What and why">
            <Choice
              legend="What is claimed"
              name="claim"
              value={claim}
              onChange={(v) => form.setValue("claim", v as Values["claim"], { shouldDirty: true })}
              options={offered("claim")}
              disabled={fixed}
            />
            <div className="grid grid-cols-2 gap-4">
              <Field label="Title" error={errors.title?.message}>
                {(ids) => <TextInput {...ids} {...form.register("title")} />}
              </Field>
              <Field label="Why now">{(ids) => <Select {...ids} {...form.register("why_now")} options={offered("why_now")} />}</Field>
              <Field label="Who relies on the result" hint="Which body accepts it, whose signature it needs, and until when.">
                {(ids) => <TextInput {...ids} {...form.register("relied_on_by")} />}
              </Field>
              <Field label="Next test due" hint="Empty: the paper says that whoever inspects names the day." error={errors.next_on?.message}>
                {(ids) => <TextInput {...ids} {...form.register("next_on")} placeholder="2027-06-01" />}
              </Field>
              <Field label="By which rule" hint="The rule, or the person who set the interval." error={errors.next_by?.message}>
                {(ids) => <TextInput {...ids} {...form.register("next_by")} />}
              </Field>
              <Field label="Run" hint="A rehearsal obeys the same limits and is never signed.">
                {(ids) => <Select {...ids} {...form.register("run")} options={offered("run_kind")} />}
              </Field>
            </div>
          </Section>
          <Section title="Basis">
            <BasisFields
              form={form as unknown as UseFormReturn<WithBasis>}
              bases={bases}
              materials={library.data?.materials ?? []}
              unit={unit}
              disabled={fixed}
              refused={problem ?? undefined}
              against={isDirty ? undefined : against}
            />
          </Section>
          <Section title="The day">
            <div className="grid grid-cols-2 gap-4 max-[700px]:grid-cols-1">
              <Field
                label="Hold, minutes"
                hint={
                  ownersFall > (floor ?? 0)
                    ? `The owner's fall is judged over ${Math.round(ownersFall / 60)}\u00a0min.`
                    : floor
                      ? `The basis asks for at least ${Math.round(floor / 60)}\u00a0min.`
                      : undefined
                }
                error={errors.hold?.message ?? (problem?.field === "hold_s" ? problem.text : undefined)}
              >
                {(ids) => <TextInput {...ids} {...form.register("hold")} inputMode="decimal" />}
              </Field>
              <Field
                label={`${gas ? "Gas" : "Water"} at the test, ${beside.water.symbol}`}
                error={errors.water?.message ?? (problem?.field === "water_temperature_c" ? problem.text : isDirty ? undefined : against("water_temperature_c"))}
              >
                {(ids) => <TextInput {...ids} {...form.register("water")} inputMode="decimal" />}
              </Field>
              <Field
                label={`Cooling expected over the hold, ${beside.cooling.symbol}`}
                hint="Raises the planned pressure by what that cooling takes away."
                error={errors.cooling?.message ?? (problem?.field === "expected_cooling_k" ? problem.text : undefined)}
              >
                {(ids) => <TextInput {...ids} {...form.register("cooling")} inputMode="decimal" />}
              </Field>
              <Field label="What surrounds it" hint="Decides how fast heat gets in, and what can be told from a leak.">
                {(ids) => <Select {...ids} {...form.register("exposure")} options={offeredOrNone("exposure", "what is usual for the object")} />}
              </Field>
              <Field
                label="Raise"
                hint={gas ? `Gas stops first at the lesser of half the test pressure and ${show.free(170_000)}.` : "Stops on the way up, with a look at each."}
              >
                {(ids) => <Select {...ids} {...form.register("schedule")} options={offered(gas ? "gas_schedule" : "schedule")} />}
              </Field>
              {gas ? (
                <>
                  <Field label="Where the gas comes from" hint="An open workshop line is refused.">
                    {(ids) => <Select {...ids} {...form.register("gas_supply")} options={offeredOrNone("gas_supply", "not said yet")} />}
                  </Field>
                  <Field label="Who stays with the gas test" hint="An experienced person, by name or role.">
                    {(ids) => <TextInput {...ids} {...form.register("gas_in_charge")} />}
                  </Field>
                </>
              ) : null}
              <Field label="Worked in" hint="The unit of the adopted code: roundings of the standards follow it. Fixed at the release.">
                {(ids) => <Select {...ids} {...form.register("worked_in")} options={UNITS.map((u) => [u, SYMBOL[u]] as const)} />}
              </Field>
              <Field
                label="Relief valve opens fully within, %"
                hint="Above its setting. 10 where its certificate says nothing else."
                error={errors.accumulation?.message ?? (problem?.field?.endsWith("relief_accumulation") ? problem.text : undefined)}
              >
                {(ids) => <TextInput {...ids} {...form.register("accumulation")} inputMode="decimal" />}
              </Field>
              <Field
                label={`Leak to rule out, ${beside.sensitivity.symbol}`}
                hint="Empty where none is asked; then no figure is claimed."
                error={errors.sensitivity?.message}
              >
                {(ids) => <TextInput {...ids} {...form.register("sensitivity")} inputMode="decimal" />}
              </Field>
            </div>
          </Section>
        </fieldset>
        {why.data ? (
          <p className="m-0 text-sm text-soft">
            {why.data.sentence} {why.data.clause ? `${why.data.clause}, ${why.data.edition}; ` : ""}
            {why.data.standing === "not_checked" ? "not checked against the published edition." : "common practice."}
          </p>
        ) : null}
        {problem && !SHOWN_IN_PLACE.includes(problem.field ?? "") ? (
          <Note kind="stop" live>
            {problem.text}
          </Note>
        ) : null}
        {pack.may.plan ? (
          <div className="flex items-center gap-3">
            <Button type="submit" kind="main" disabled={isSubmitting || !isDirty || fixed}>
              Save
            </Button>
            <span role="status" className="text-sm text-soft">
              {isSubmitting ? "saving" : isDirty ? typing.words : saved ? "saved" : ""}
            </span>
            {isDirty ? (
              <button
                type="button"
                className="border-0 bg-transparent p-0 text-sm text-water underline"
                onClick={() => {
                  typing.done();
                  adopt(pack, false);
                }}
              >
                Throw it away
              </button>
            ) : null}
          </div>
        ) : null}
      </form>
      <HoldPromise />
      <MethodFields />
      {pack.derived?.gas ? (
        <Section title="What gas stores, and where nobody stands">
          <GasPictures gas={pack.derived.gas} />
        </Section>
      ) : null}
      <Keeping />
    </Page>
  );
}
