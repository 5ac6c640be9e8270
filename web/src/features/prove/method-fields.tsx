import { api, type Schema } from "../../api/client";
import { usePack } from "../../api/pack";
import { useAgainst } from "../../api/against";
import { DraftForm, Measured, usePlanDraft } from "../../planning";
import { Field, Note, Section, Select, TextInput } from "../../ui";
import { useFigures } from "../../units";

type Answers = Schema["MethodAnswers"];

/** Alternatives to a plain liquid test, a low gas test before it, the liquid, history and derating: each asked only where it matters. */
export function MethodFields() {
  const pack = usePack();
  const draft = usePlanDraft("how it is tested");
  const library = api.useQuery("get", "/api/v1/library");
  const plan = draft.draft;
  const answers = (plan.method ?? {}) as Answers;
  const change = (by: Partial<Answers>) => draft.set({ method: { ...answers, ...by } });
  const standing = pack.method;
  const against = useAgainst();
  const method = library.data?.methods.method.find((m) => m.id === standing.id);
  const gas = plan.basis.medium != null && plan.basis.medium !== "liquid";
  const toggle = (list: readonly string[] | undefined, key: string) => {
    const has = list?.includes(key);
    return has ? (list ?? []).filter((k) => k !== key) : [...(list ?? []), key];
  };
  const open = standing.open;
  return (
    <Section
      title={`How: ${standing.name}`}
      aside={standing.rank > 1 ? `number ${standing.rank} in rank; ${open.length ? `${open.length} open` : "answered and approved"}` : "number 1 in rank"}
    >
      <DraftForm draft={draft} save="Save how it is tested">
        {method?.needs_reason ? (
          <fieldset className="m-0 border-0 p-0">
            <legend className="p-0 text-sm font-semibold">What speaks against a plain liquid test</legend>
            {library.data?.methods.reason.map((r) => (
              <Tick key={r.key} label={r.words} on={answers.reasons?.includes(r.key) ?? false} onChange={() => change({ reasons: toggle(answers.reasons, r.key) })} />
            ))}
          </fieldset>
        ) : null}
        {method?.conditions?.length ? (
          <fieldset className="m-0 border-0 p-0">
            <legend className="p-0 text-sm font-semibold">Is this so?</legend>
            {method.conditions.map((c) => (
              <Tick
                key={c.key}
                label={c.words}
                on={answers.conditions?.includes(c.key) ?? false}
                onChange={() => change({ conditions: toggle(answers.conditions, c.key) })}
              />
            ))}
          </fieldset>
        ) : null}
        {method?.approvals?.map((a) => (
          <Field key={a.key} label={`Approved by the ${a.words}`} hint="Name and date.">
            {(ids) => (
              <TextInput {...ids} value={answers.approvals?.[a.key] ?? ""} onChange={(e) => change({ approvals: { ...answers.approvals, [a.key]: e.target.value } })} />
            )}
          </Field>
        ))}
        {method?.why_not
          ? library.data?.methods.method
              .filter((m) => m.rank < method.rank)
              .map((m) => (
                <Field key={m.id} label={`No ${m.name}: why, and what was tried`}>
                  {(ids) => (
                    <TextInput {...ids} value={answers.why_not?.[m.id] ?? ""} onChange={(e) => change({ why_not: { ...answers.why_not, [m.id]: e.target.value } })} />
                  )}
                </Field>
              ))
          : null}
        {gas ? (
          <>
            <Measured
              label="Share of the volume under gas, %"
              hint="Empty where all of it is; less is a hydro-pneumatic test."
              error={against("gas_share")}
              value={answers.gas_share}
              factor={0.01}
              onChange={(v) => change({ gas_share: v })}
            />
            {answers.gas_share != null && answers.gas_share < 1 ? (
              <Measured
                label="Height of the water line"
                dimension="length_m"
                hint="What lies below it carries the weight of the water. Empty: the test is not derived."
                error={against("water_line_m")}
                value={answers.water_line_m}
                onChange={(v) => change({ water_line_m: v })}
              />
            ) : null}
          </>
        ) : (
          <>
            <Measured
              label="Low gas test before wetting"
              dimension="gauge_pressure_pa"
              hint="Finds open plugs and pinholes; proves nothing. Empty where none is made."
              value={plan.pretest_pa}
              onChange={(v) => draft.set({ pretest_pa: v })}
            />
            {plan.pretest_pa != null ? (
              <Field
                label="Brittle material: who says that its maker permits gas, and up to what"
                hint="Empty: no gas test of it before wetting."
                error={against("pretest_permitted_by")}
              >
                {(ids) => <TextInput {...ids} value={plan.pretest_permitted_by ?? ""} onChange={(e) => draft.set({ pretest_permitted_by: e.target.value })} />}
              </Field>
            ) : null}
            <Liquid liquid={plan.liquid ?? null} onChange={(liquid) => draft.set({ liquid })} />
          </>
        )}
        {plan.why_now === "unknown_history" ? (
          <Field label="Inside look: by whom, and what was found" hint="Before any pressure. Without wall and plate there is no target pressure.">
            {(ids) => <TextInput {...ids} value={plan.inside_look ?? ""} onChange={(e) => draft.set({ inside_look: e.target.value })} />}
          </Field>
        ) : null}
        <Derating derating={plan.derating ?? null} onChange={(derating) => draft.set({ derating })} />
      </DraftForm>
      {pack.derived?.pretest ? (
        <>
          {pack.derived.pretest.refused ? <Note kind="stop">{pack.derived.pretest.refused}</Note> : null}
          <ul className="m-0 list-disc pl-5 text-sm">
            {pack.derived.pretest.cautions.map((c) => (
              <li key={c}>{c}</li>
            ))}
          </ul>
        </>
      ) : null}
      {open.length ? (
        <Note kind="limit" word="Open:">
          {open.join(" ")}
        </Note>
      ) : null}
    </Section>
  );
}

function Tick({ label, on, onChange }: { label: string; on: boolean; onChange: () => void }) {
  return (
    <label className="flex items-baseline gap-2 py-0.5 text-sm">
      <input type="checkbox" checked={on} onChange={onChange} className="accent-water" />
      <span>{label}</span>
    </label>
  );
}

type LiquidOf = Schema["OtherLiquid"] | null;

/** Water, or another liquid with its figures. */
function Liquid({ liquid, onChange }: { liquid: LiquidOf; onChange: (liquid: LiquidOf) => void }) {
  const show = useFigures();
  const against = useAgainst();
  const set = (by: Partial<NonNullable<LiquidOf>>) => onChange({ name: "", density_kg_m3: 1000, flammable: false, ...liquid, ...by });
  return (
    <>
      <Field label="Liquid">
        {(ids) => (
          <Select
            {...ids}
            value={liquid ? "other" : "water"}
            options={[
              ["water", "water"],
              ["other", "another liquid"],
            ]}
            onChange={(e) => (e.target.value === "water" ? onChange(null) : set({}))}
          />
        )}
      </Field>
      {liquid ? (
        <>
          <Field label="What it is">{(ids) => <TextInput {...ids} value={liquid.name} onChange={(e) => set({ name: e.target.value })} />}</Field>
          <Measured label="Density" dimension="density_kg_m3" value={liquid.density_kg_m3} onChange={(v) => set({ density_kg_m3: v ?? 0 })} />
          <Measured
            label="Compressibility, 1e-10 per Pa"
            hint="Water has 4.6. Without it no volume to pump is told."
            value={liquid.compressibility_per_pa}
            factor={1e-10}
            onChange={(v) => set({ compressibility_per_pa: v })}
          />
          <Measured label="Expansion, 1e-4 per K" hint="Cool water has 2.1." value={liquid.expansion_per_k} factor={1e-4} onChange={(v) => set({ expansion_per_k: v })} />
          <Measured
            label="Freezes at"
            dimension="temperature_c"
            hint={`From its data sheet. Empty: it is not used below ${show.of(5, "temperature_c")}.`}
            error={against("liquid.freezes_c")}
            value={liquid.freezes_c}
            onChange={(v) => set({ freezes_c: v })}
          />
          <Measured
            label="Chloride in it, ppm"
            hint="Needed where austenitic steel is wetted."
            error={against("liquid.chloride_ppm")}
            value={liquid.chloride_ppm}
            onChange={(v) => set({ chloride_ppm: v })}
          />
          <Tick label="It burns" on={liquid.flammable ?? false} onChange={() => set({ flammable: !liquid.flammable })} />
          {liquid.flammable ? (
            <Measured
              label="Flash point"
              dimension="temperature_c"
              hint={`${show.of(49, "temperature_c")} or more (B31.3 345.4.1).`}
              value={liquid.flash_point_c}
              onChange={(v) => set({ flash_point_c: v })}
            />
          ) : null}
        </>
      ) : null}
    </>
  );
}

type DeratingOf = Schema["Derating"] | null;

/** A proof from a reduced working pressure: closed by valve, switch and tag. */
function Derating({ derating, onChange }: { derating: DeratingOf; onChange: (derating: DeratingOf) => void }) {
  const set = (by: Partial<NonNullable<DeratingOf>>) => onChange({ valve: "", switch: "", tag: "", ...derating, ...by });
  return (
    <>
      <div className="col-span-full">
        <Tick
          label="The working pressure is taken down: restore closes only when valve, switch and tag carry it"
          on={Boolean(derating)}
          onChange={() => onChange(derating ? null : { valve: "", switch: "", tag: "" })}
        />
      </div>
      {derating
        ? (
            [
              ["valve", "Relief valve set to it: which, certificate"],
              ["switch", "Pressure switch set to it: which"],
              ["tag", "Tag or plate that carries it"],
            ] as const
          ).map(([key, label]) => (
            <Field key={key} label={label} hint="Empty until it is done.">
              {(ids) => <TextInput {...ids} value={derating[key]} onChange={(e) => set({ [key]: e.target.value })} />}
            </Field>
          ))
        : null}
    </>
  );
}
