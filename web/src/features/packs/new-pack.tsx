import { zodResolver } from "@hookform/resolvers/zod";
import { useNavigate } from "@tanstack/react-router";
import { useRef, useState } from "react";
import { type UseFormReturn, useForm } from "react-hook-form";
import { z } from "../../ui/schema";
import { api, http, newId, type Plan, sentence } from "../../api/client";
import { useTypingForm } from "../../api/typing-form";
import { BasisFields, BasisForm, basisOf, basisValues, missingOf, type WithBasis } from "../../basis";
import { Button, Field, Heading, Lead, Page, Problem, TextInput } from "../../ui";
import { ProjectField, useOneProject } from "../../planning";
import { inField, useFigures } from "../../units";

const Form = z.object({
  number: z.string().max(32, "At most 32 characters."),
  title: z.string().trim().min(1, "Type what people call it."),
  basis: BasisForm,
});

export function NewPack() {
  const navigate = useNavigate();
  const show = useFigures();
  const unit = show.unit;
  const [problem, setProblem] = useState("");
  // one id for one form: sent twice, it makes one pack
  const id = useRef(newId());
  const one = useOneProject((p) => p.may_make_pack);
  const library = api.useQuery("get", "/api/v1/library");
  const bases = library.data?.bases ?? [];
  const form = useForm<z.infer<typeof Form>>({
    resolver: zodResolver(Form),
    defaultValues: { number: "", title: "", basis: { ...basisValues({ id: "b31_3" } as Plan["basis"], show), temperature: inField(38, show.unitFor("temperature_c")) } },
  });
  const { errors, isSubmitting } = form.formState;
  const typing = useTypingForm(form, `new pack in ${show.symbol} ${show.unitFor("temperature_c").symbol}`, "the new pack");
  const info = bases.find((b) => b.id === form.watch("basis.id"));
  /** Says under each field of the basis that it is missing; true when one is. */
  const complain = () => {
    const missing = missingOf(form.getValues("basis"), info, bases);
    for (const [field, label] of missing) form.setError(`basis.${field}`, { message: `The ${label.toLowerCase()} is missing.` });
    return missing.length > 0;
  };
  const submit = form.handleSubmit(async (f) => {
    setProblem("");
    if (complain()) return;
    if (!one.project) return setProblem("Say in which project this pack is.");
    const beneath = info?.on_top ? bases.find((b) => b.id === f.basis.on_top_of) : undefined;
    const plan = {
      object: library.data?.objects[info?.id ?? ""],
      claim: "both",
      why_now: "new",
      basis: basisOf(f.basis, show, info, beneath),
      worked_in: unit,
      water_temperature_c: 15,
      gauge_elevation_m: 0,
    } as unknown as Plan;
    try {
      const { data, error } = await http.PUT("/api/v1/packs/{id}", {
        params: { path: { id: id.current } },
        body: { project: one.project, number: f.number, title: f.title, form: "pack", plan, rows: [] },
      });
      if (data) {
        typing.done();
        await navigate({ to: `/tests/${data.id}/prove` as "/" });
      } else setProblem(sentence(error));
    } catch (e) {
      setProblem(sentence(e));
    }
  }, complain);
  return (
    <Page>
      <Heading>Add a pack</Heading>
      <Lead>By any of the test bases, with water or with gas. What it must prove, its parts and its people follow on its own screens.</Lead>
      <form onSubmit={submit} className="grid max-w-3xl gap-4" noValidate>
        <ProjectField of={one} />
        <Field label="Number" hint="Leave it empty for the next free one." error={errors.number?.message}>
          {(ids) => <TextInput {...ids} {...form.register("number")} />}
        </Field>
        <Field label="Title" error={errors.title?.message}>
          {(ids) => <TextInput {...ids} {...form.register("title")} />}
        </Field>
        <BasisFields form={form as unknown as UseFormReturn<WithBasis>} bases={bases} materials={library.data?.materials ?? []} unit={unit} disabled={false} />
        <Problem>{problem}</Problem>
        <div>
          <Button type="submit" kind="main" disabled={isSubmitting || !info}>
            Add the pack
          </Button>{" "}
          <span role="status" className="text-sm text-soft">
            {isSubmitting ? "" : typing.words}
          </span>
        </div>
      </form>
    </Page>
  );
}
