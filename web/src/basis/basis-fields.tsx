import { useEffect } from "react";
import type { UseFormReturn } from "react-hook-form";
import { Field, Note, Select, TextInput } from "../ui";
import { offered, word } from "../api/words";
import { asksOf, type BasisInfo, type BasisValues, PRESSURES, type PressureField } from "./basis";
import { SYMBOL, type Unit, useFigures, useFollow, useFollowUnit } from "../units";

/** The part of a form's values that this draws. */
export interface WithBasis {
  basis: BasisValues;
}

interface Props {
  form: UseFormReturn<WithBasis>;
  bases: readonly BasisInfo[];
  materials: readonly { id: string; name: string }[];
  unit: Unit;
  disabled: boolean;
  /** Sentence of the server under the field that it names. */
  refused?: { text: string; field?: string };
  /** What stands against a field as it was saved. */
  against?: (field: string) => string | undefined;
}

/** The basis with what it asks: questions on which editions and schools differ stand as questions. */
export function BasisFields({ form, bases, materials, unit, disabled, refused, against }: Props) {
  const v = form.watch("basis");
  const info = bases.find((b) => b.id === v.id);
  const beneath = info?.on_top ? bases.find((b) => b.id === v.on_top_of) : undefined;
  const leading = beneath ?? info;
  const asked = asksOf(info, beneath);
  const gas = v.medium !== "liquid";
  const agreedNeeded = asked.has("agreed_pressure") || (gas ? leading?.agreed_with_gas : leading?.agreed_with_liquid);
  const floor = gas ? leading?.hold_floor_gas_s : leading?.hold_floor_s;
  const warmth = useFigures().unitFor("temperature_c");
  useFollow(warmth, v.temperature, (text) => form.setValue("basis.temperature", text));
  const errors = form.formState.errors.basis;
  const refusal = (field: string) => (refused?.field?.endsWith(field) ? refused.text : against?.(field));
  const no = gas ? leading?.no_gas : leading?.no_liquid;
  const vessel = leading?.duty === "vessel" && asked.has("design_temperature");
  return (
    <div className="grid gap-4">
      <div className="grid grid-cols-2 gap-4 max-[700px]:grid-cols-1">
        <Field label="Test basis" error={refusal("basis")}>
          {(ids) => (
            <select
              {...ids}
              {...form.register("basis.id")}
              value={v.id}
              disabled={disabled}
              className="w-full rounded-[3px] border border-rule bg-sheet px-2.5 py-1.5 text-base text-ink disabled:bg-paper disabled:text-soft"
            >
              {bases.length === 0 ? <option value={v.id}>{v.id}</option> : null}
              {offered("duty").map(([duty, words]) => (
                <optgroup key={duty} label={words}>
                  {bases
                    .filter((b) => b.duty === duty)
                    .map((b) => (
                      <option key={b.id} value={b.id}>
                        {b.name}
                      </option>
                    ))}
                </optgroup>
              ))}
            </select>
          )}
        </Field>
        <Field label="Filled with" error={refusal("medium")}>
          {(ids) => <Select {...ids} {...form.register("basis.medium")} options={offered("medium")} />}
        </Field>
        {info?.on_top ? (
          <Field label="On top of" error={refusal("on_top_of")}>
            {(ids) => (
              <Select
                {...ids}
                {...form.register("basis.on_top_of")}
                value={v.on_top_of}
                options={[["", "choose the code"], ...bases.filter((b) => !b.on_top).map((b) => [b.id, b.name] as const)]}
              />
            )}
          </Field>
        ) : null}
        {PRESSURES.map(([ask, field]) => (
          <Pressure
            key={field}
            form={form}
            field={field}
            label={word("asked", ask)}
            unit={unit}
            shown={info ? asked.has(ask) || ask === "agreed_pressure" : v[field] !== ""}
            hint={ask !== "agreed_pressure" || agreedNeeded ? undefined : "Empty: what the basis asks. A higher figure of the owner's goes here."}
            error={errors?.[field]?.message ?? refusal(field)}
          />
        ))}
        {(info ? asked.has("design_temperature") : v.temperature !== "") ? (
          <Field label={`Design temperature, ${warmth.symbol}`} error={errors?.temperature?.message ?? refusal("design_temperature_c")}>
            {(ids) => <TextInput {...ids} {...form.register("basis.temperature")} inputMode="decimal" />}
          </Field>
        ) : null}
        {vessel ? (
          <Field label="Bolting" hint="Left out of the ratio of stresses unless it would be overstrained.">
            {(ids) => (
              <Select
                {...ids}
                {...form.register("basis.bolting")}
                value={v.bolting}
                options={[["", "none, or not asked"], ...materials.map((m) => [m.id, m.name] as const)]}
              />
            )}
          </Field>
        ) : null}
        {leading?.choices
          .filter((c) => Object.entries(c.only).every(([key, answer]) => (v.choices[key] || leading.choices.find((o) => o.key === key)?.options[0]?.key) === answer))
          .map((c) => (
            <Field key={c.key} label={c.question} hint="Practitioners or editions differ; the first is the default." error={refusal("choices")}>
              {(ids) => (
                <Select
                  {...ids}
                  {...form.register(`basis.choices.${c.key}`)}
                  value={v.choices[c.key] || c.options[0]?.key}
                  options={c.options.map((o) => [o.key, o.words] as const)}
                />
              )}
            </Field>
          ))}
        {info && floor == null ? (
          <Field label="Least hold by the owner, minutes" hint="This tool knows no rule for it." error={errors?.agreed_hold?.message ?? refusal("agreed_hold_s")}>
            {(ids) => <TextInput {...ids} {...form.register("basis.agreed_hold")} inputMode="decimal" />}
          </Field>
        ) : null}
        <Field
          label="Fall that the owner allows, %"
          hint="Of the pressure at the start. Empty where the basis alone counts."
          error={errors?.owners_fall?.message ?? refusal("owners_fall")}
        >
          {(ids) => <TextInput {...ids} {...form.register("basis.owners_fall")} inputMode="decimal" />}
        </Field>
        {v.owners_fall.trim() !== "" || v.owners_fall_hours.trim() !== "" ? (
          <Field label="Within, hours" hint="The hold is at least as long." error={errors?.owners_fall_hours?.message}>
            {(ids) => <TextInput {...ids} {...form.register("basis.owners_fall_hours")} inputMode="decimal" />}
          </Field>
        ) : null}
        {v.agreed_pressure_pa.trim() !== "" && !agreedNeeded ? (
          <Field label="Why more than the basis asks" hint="Needed when it is more than 5 % above." error={refusal("over_test_reason")}>
            {(ids) => <TextInput {...ids} {...form.register("basis.over_test_reason")} />}
          </Field>
        ) : null}
      </div>
      {no ? <Note kind="stop">{no}</Note> : null}
      {gas && !no ? (
        <Note kind="stop">
          Gas stores hundreds to tens of thousands of times the energy of water. Give the written reason, keep everybody at the distance that Derive names, and never in a
          closed room without an oxygen meter.
        </Note>
      ) : null}
      {leading?.conditions.length ? (
        <ul className="m-0 list-disc pl-5 text-sm">
          {leading.conditions.map((c) => (
            <li key={c}>{c}</li>
          ))}
        </ul>
      ) : null}
    </div>
  );
}

interface PressureProps {
  form: UseFormReturn<WithBasis>;
  field: PressureField;
  label: string;
  unit: Unit;
  shown: boolean;
  hint?: string;
  error?: string;
}

/** One pressure, which follows the unit that is shown. */
function Pressure({ form, field, label, unit, shown, hint, error }: PressureProps) {
  const name = `basis.${field}` as const;
  useFollowUnit(unit, form.watch(name), (text) => form.setValue(name, text));
  useEffect(() => form.register(name) && undefined, [form, name]);
  if (!shown) return null;
  return (
    <Field label={`${label}, ${SYMBOL[unit]}`} hint={hint} error={error}>
      {(ids) => <TextInput {...ids} {...form.register(name)} inputMode="decimal" />}
    </Field>
  );
}
