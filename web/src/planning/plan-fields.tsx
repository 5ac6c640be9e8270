import { offered } from "../api/words";
import { useState } from "react";
import { api, type Plan, type Schema } from "../api/client";
import { usePack } from "../api/pack";
import { AlsoRecorded } from "./also-recorded";
import { Field, Select, TextInput } from "../ui";
import { useFigures } from "../units";
import { usePlanDraft } from "./draft";
import { DraftForm } from "./draft-form";
import { Measured } from "./measured";

type Group = "gauge" | "thermometer" | "permit" | "people";

/** What a form of these groups saves, as somebody is asked about it. */
const saves = (show: readonly Group[]) => `the ${show.length < 2 ? show[0] : `${show.slice(0, -1).join(", ")} and ${show.at(-1)}`}`;

/** Fields of the plan that more than one screen asks for; each screen shows the groups that it needs. */
export function PlanFields({ show }: { show: readonly Group[] }) {
  const pack = usePack();
  const library = api.useQuery("get", "/api/v1/library");
  const instruments = api.useQuery("get", "/api/v1/instruments");
  const plan = usePlanDraft(saves(show));
  const { draft, set } = plan;
  const [wrong, setWrong] = useState(false);
  const shown = { gauge: show.includes("gauge"), thermometer: show.includes("thermometer"), permit: show.includes("permit"), people: show.includes("people") };
  const of = (kind: string) => [
    ["", "none chosen"] as const,
    ...(instruments.data ?? [])
      .filter((i) => i.instrument.kind === kind && i.lent_to.includes(pack.project.id))
      .map((i) => [i.instrument.tag, `${i.instrument.tag}${i.objection ? " (out of date)" : ""}`] as const),
  ];
  const people = (role: string) => [
    ["", "nobody named"] as const,
    ...(library.data?.people ?? [])
      .filter((p) => p.project === pack.project.id && (p.role === role || pack.form === "quick"))
      .map((p) => [p.sign_in, p.sign_in] as const),
  ];
  const named: Schema["People"] = draft.people ?? { performs: "", inspects: "", witnesses: "", accepts: "" };
  const person = (key: keyof Schema["People"], label: string, role: string) => (
    <Field label={label}>
      {(f) => <Select {...f} options={people(role)} value={named[key]} onChange={(e) => set({ people: { ...named, [key]: e.target.value } })} />}
    </Field>
  );
  // one that is in no store, or lent no more, stays chosen until another is
  const there = of("gauge");
  const chosen = draft.gauge_tag ?? "";
  const gauges = there.some(([tag]) => tag === chosen) ? there : [...there, [chosen, chosen] as const];
  const figures = useFigures(pack);
  const set_at = pack.derived?.day?.relief_set_pa;
  const relief = pack.derived?.day?.conflicts.some((c) => c.about === "relief") || draft.relief_alternative;
  return (
    <DraftForm draft={plan} refuse={wrong ? "The height of the gauge is missing: give it above the site's datum." : ""}>
      {shown.gauge ? (
        <>
          <Field label="Gauge">{(f) => <Select {...f} options={gauges} value={draft.gauge_tag ?? ""} onChange={(e) => set({ gauge_tag: e.target.value })} />}</Field>
          <Measured
            label="Read at height"
            dimension="length_m"
            value={wrong ? null : draft.gauge_elevation_m}
            onChange={(m) => {
              setWrong(m === null);
              if (m !== null) set({ gauge_elevation_m: m });
            }}
          />
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
                options={offered("thermometer_place")}
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
      {shown.permit && pack.form === "quick" && draft.basis.medium === "liquid" ? (
        <>
          <label className="col-span-2 flex min-h-11 cursor-pointer items-center gap-3">
            <input type="checkbox" className="size-5 accent-water" checked={draft.hand_pump ?? false} onChange={(e) => set({ hand_pump: e.target.checked })} />
            <span>I pump by hand, in part strokes near the end, eyes on the gauge, one hand at the bleed.</span>
          </label>
          {relief || set_at == null ? null : (
            <label className="col-span-2 flex min-h-11 cursor-pointer items-center gap-3">
              <input
                type="checkbox"
                className="size-5 accent-water"
                checked={draft.relief_fitted_pa === set_at}
                onChange={(e) => set({ relief_fitted_pa: e.target.checked ? set_at : null })}
              />
              <span>A relief valve set at {figures.p(set_at, "down")} is fitted and in date.</span>
            </label>
          )}
        </>
      ) : null}
      {shown.permit && relief && (pack.form !== "quick" || draft.basis.medium !== "liquid" || draft.relief_alternative) ? (
        <div className="col-span-2">
          <Field label="Instead of a relief setting: what, and approved by whom">
            {(f) => <TextInput {...f} value={draft.relief_alternative ?? ""} onChange={(e) => set({ relief_alternative: e.target.value })} />}
          </Field>
        </div>
      ) : null}
    </DraftForm>
  );
}
