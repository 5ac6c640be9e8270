import { useState } from "react";
import { api, isOutrun, type Plan, type Schema, sentence } from "../api/client";
import { usePack, usePackActions } from "../api/pack";
import { changed, rebase } from "../api/rebase";
import { AlsoRecorded } from "./also-recorded";
import { Button, Field, Problem, Select, TextInput } from "../ui";

const PLACES = [
  ["water", "in the water"],
  ["skin", "on the metal"],
  ["ambient", "in the air"],
] as const;

type Group = "gauge" | "thermometer" | "permit" | "people";

/** Fields of the plan that more than one screen asks for; each screen shows the groups that it needs. */
export function PlanFields({ show }: { show: readonly Group[] }) {
  const pack = usePack();
  const actions = usePackActions();
  const library = api.useQuery("get", "/api/v1/library");
  const instruments = api.useQuery("get", "/api/v1/instruments");
  // what the typing began on; a newer version is taken over only while nothing is typed
  const [base, setBase] = useState(pack);
  const [draft, setDraft] = useState<Plan>(pack.plan);
  const [problem, setProblem] = useState("");
  const [height, setHeight] = useState(String(pack.plan.gauge_elevation_m));
  const dirty = changed(base.plan, draft) || height !== String(base.plan.gauge_elevation_m);
  const adopt = (next: typeof pack, plan: Plan, keepHeight: boolean) => {
    setBase(next);
    setDraft(plan);
    if (!keepHeight) setHeight(String(plan.gauge_elevation_m));
  };
  if (base.version !== pack.version && !dirty) adopt(pack, pack.plan, false);
  const shown = { gauge: show.includes("gauge"), thermometer: show.includes("thermometer"), permit: show.includes("permit"), people: show.includes("people") };
  const fixed = !pack.may.plan || Boolean(pack.locked);
  const set = (change: Partial<Plan>) => setDraft({ ...draft, ...change });
  const of = (kind: string) => [
    ["", "none chosen"] as const,
    ...(instruments.data ?? [])
      .filter((i) => i.instrument.kind === kind)
      .map((i) => [i.instrument.tag, `${i.instrument.tag}${i.objection ? " (out of date)" : ""}`] as const),
  ];
  const people = (role: string) => [
    ["", "nobody named"] as const,
    ...(library.data?.people ?? []).filter((p) => p.role === role || pack.form === "quick").map((p) => [p.sign_in, p.sign_in] as const),
  ];
  const named: Schema["People"] = draft.people ?? { performs: "", inspects: "", witnesses: "", accepts: "" };
  const person = (key: keyof Schema["People"], label: string, role: string) => (
    <Field label={label}>
      {(f) => <Select {...f} options={people(role)} value={named[key]} onChange={(e) => set({ people: { ...named, [key]: e.target.value } })} />}
    </Field>
  );
  const relief = pack.derived?.day?.conflicts.some((c) => c.about === "relief") || draft.relief_alternative;
  return (
    <form
      className="grid gap-3"
      onSubmit={async (e) => {
        e.preventDefault();
        setProblem("");
        const z = Number(height.replace(",", "."));
        if (height.trim() === "" || !Number.isFinite(z)) return setProblem("The height of the gauge is a number of metres above the site's datum.");
        try {
          const saved = await actions.plan({ ...draft, gauge_elevation_m: z }, base.title, base.version);
          adopt(saved, saved.plan, false);
        } catch (e) {
          setProblem(sentence(e));
          if (!isOutrun(e)) return;
          const theirs = await actions.newest();
          adopt(theirs, rebase(base.plan, draft, theirs.plan), height !== String(base.plan.gauge_elevation_m));
        }
      }}
    >
      <fieldset disabled={fixed} className="m-0 grid grid-cols-2 gap-3 border-0 p-0">
        {shown.gauge ? (
          <>
            <Field label="Gauge">
              {(f) => <Select {...f} options={of("gauge")} value={draft.gauge_tag ?? ""} onChange={(e) => set({ gauge_tag: e.target.value })} />}
            </Field>
            <Field label="Read at height, m">{(f) => <TextInput {...f} value={height} onChange={(e) => setHeight(e.target.value)} inputMode="decimal" />}</Field>
          </>
        ) : null}
        {shown.thermometer ? (
          <>
            <Field label="Thermometer">
              {(f) => <Select {...f} options={of("thermometer")} value={draft.thermometer_tag ?? ""} onChange={(e) => set({ thermometer_tag: e.target.value })} />}
            </Field>
            <Field label="It sits">
              {(f) => (
                <Select
                  {...f}
                  options={PLACES}
                  value={draft.thermometer_place ?? "skin"}
                  onChange={(e) => set({ thermometer_place: e.target.value as Plan["thermometer_place"] })}
                />
              )}
            </Field>
          </>
        ) : null}
        {shown.thermometer ? (
          <AlsoRecorded
            also={draft.also ?? []}
            instruments={(instruments.data ?? []).map((i) => i.instrument)}
            taken={[draft.gauge_tag ?? "", draft.thermometer_tag ?? ""]}
            onChange={(also) => set({ also })}
          />
        ) : null}
        {shown.permit && pack.form === "pack" ? (
          <Field label="Permit number">{(f) => <TextInput {...f} value={draft.permit_number ?? ""} onChange={(e) => set({ permit_number: e.target.value })} />}</Field>
        ) : null}
        {shown.people ? person("performs", "Performs", "supervisor") : null}
        {shown.people && pack.form === "pack" ? (
          <>
            {person("inspects", "Inspects", "inspector")}
            {person("witnesses", "Witnesses", "witness")}
            {person("accepts", "Accepts", "owner")}
          </>
        ) : null}
        {shown.permit && relief ? (
          <div className="col-span-2">
            <Field label="Instead of a relief setting: what, and approved by whom">
              {(f) => <TextInput {...f} value={draft.relief_alternative ?? ""} onChange={(e) => set({ relief_alternative: e.target.value })} />}
            </Field>
          </div>
        ) : null}
      </fieldset>
      <Problem>{problem}</Problem>
      {fixed ? null : (
        <div className="flex items-center gap-3">
          <Button type="submit" kind="main" disabled={!dirty}>
            Save
          </Button>
          <span role="status" className="text-sm text-soft">
            {dirty ? "not saved yet" : ""}
          </span>
        </div>
      )}
    </form>
  );
}
