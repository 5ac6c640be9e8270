import { zodResolver } from "@hookform/resolvers/zod";
import { useNavigate } from "@tanstack/react-router";
import { useRef, useState } from "react";
import { useForm } from "react-hook-form";
import { z } from "zod";
import { http, newId, type Plan, sentence } from "../../api/client";
import { Button, Field, Heading, Lead, Page, Problem, TextInput } from "../../ui";
import { toPa, useFollowUnit, useUnit } from "../../units/pressure";

const figure = (what: string) =>
  z
    .string()
    .trim()
    .min(1, `${what} is missing.`)
    .refine((t) => Number.isFinite(Number(t.replace(",", "."))), `${what} is a number, for example 16.`);
const Form = z.object({
  number: z.string().max(32, "At most 32 characters."),
  title: z.string().trim().min(1, "Type what people call it."),
  pressure: figure("The design pressure"),
  temperature: figure("The design temperature"),
});

const read = (t: string) => Number(t.replace(",", "."));

export function NewPack() {
  const navigate = useNavigate();
  const { unit, symbol } = useUnit();
  const [problem, setProblem] = useState("");
  // one id for one form: sent twice, it makes one pack
  const id = useRef(newId());
  const form = useForm({ resolver: zodResolver(Form), defaultValues: { number: "", title: "", pressure: "", temperature: "38" } });
  const { errors, isSubmitting } = form.formState;
  useFollowUnit(unit, form.watch("pressure"), (text) => form.setValue("pressure", text));
  const submit = form.handleSubmit(async (f) => {
    setProblem("");
    const plan = {
      object: "process_piping",
      claim: "both",
      why_now: "new",
      basis: { id: "b31_3", design_pressure_pa: toPa(read(f.pressure), unit), design_temperature_c: read(f.temperature) },
      water_temperature_c: 15,
      gauge_elevation_m: 0,
    } as unknown as Plan;
    try {
      const { data, error } = await http.PUT("/api/v1/packs/{id}", {
        params: { path: { id: id.current } },
        body: { number: f.number, title: f.title, form: "pack", plan, cells: [] },
      });
      if (data) await navigate({ to: `/tests/${data.id}/prove` as "/" });
      else setProblem(sentence(error));
    } catch (e) {
      setProblem(sentence(e));
    }
  });
  return (
    <Page>
      <Heading>Add a pack</Heading>
      <Lead>Process piping, tested with water by ASME B31.3. What it must prove, its parts and its people follow on its own screens.</Lead>
      <form onSubmit={submit} className="grid max-w-xl gap-4" noValidate>
        <Field label="Number" hint="Leave it empty for the next free one." error={errors.number?.message}>
          {(ids) => <TextInput {...ids} {...form.register("number")} />}
        </Field>
        <Field label="Title" error={errors.title?.message}>
          {(ids) => <TextInput {...ids} {...form.register("title")} />}
        </Field>
        <Field label={`Design pressure, ${symbol}`} hint="Design, not operating: the basis multiplies the design pressure." error={errors.pressure?.message}>
          {(ids) => <TextInput {...ids} {...form.register("pressure")} inputMode="decimal" />}
        </Field>
        <Field label="Design temperature, °C" error={errors.temperature?.message}>
          {(ids) => <TextInput {...ids} {...form.register("temperature")} inputMode="decimal" />}
        </Field>
        <Problem>{problem}</Problem>
        <div>
          <Button type="submit" kind="main" disabled={isSubmitting}>
            Add the pack
          </Button>
        </div>
      </form>
    </Page>
  );
}
