import { useEffect, useId, useState } from "react";
import { type Derived, http, type Plan, type Schema, sentence } from "../../api/client";
import { usePack } from "../../api/pack";
import { word } from "../../api/words";
import { PRESSURES } from "../../basis";
import { emptyWindow } from "../../api/window";
import { Measured } from "../../planning";
import { Button, Field, Section, TextInput } from "../../ui";
import { useFigures } from "../../units";

type Would = Schema["WhatWould"];

/** What another pressure, height, temperature or a part left out would give; nothing of it is stored. */
export function WhatIf({ derived }: { derived: Derived }) {
  const pack = usePack();
  const show = useFigures(pack);
  const [plan, setPlan] = useState<Plan>(pack.plan);
  const [without, setWithout] = useState<string[]>([]);
  const [tag, setTag] = useState("");
  const [would, setWould] = useState<Would | null>(null);
  const [problem, setProblem] = useState("");
  const list = useId();
  const same = without.length === 0 && JSON.stringify(plan) === JSON.stringify(pack.plan);
  useEffect(() => {
    if (same) {
      setWould(null);
      setProblem("");
      return;
    }
    const later = setTimeout(async () => {
      const { data, error } = await http.POST("/api/v1/packs/{id}/what-if", { params: { path: { id: pack.id } }, body: { plan, without } });
      setWould(data ?? null);
      setProblem(data ? "" : sentence(error));
    }, 300);
    return () => clearTimeout(later);
  }, [plan, without, same, pack.id]);
  const range = (x: Derived) => `${show.p(x.lower_readable_pa, "up")} to ${show.p(x.upper_shown_pa, "down")}`;
  const asked = PRESSURES.filter(([, field]) => pack.plan.basis[field] != null);
  const next = would?.derived;
  const stops = would?.derived ? emptyWindow(would.derived) : (would?.against[0]?.sentence ?? "");
  const now = emptyWindow(derived) ? "no reading suits every part" : `it is ${range(derived)}`;
  const against = next && !stops ? (would?.against ?? []).map((o) => o.sentence) : [];
  const says = problem
    ? problem
    : stops
      ? stops
      : next
        ? `It would be ${range(next)}, planned ${show.p(next.day?.planned_pa ?? next.lower_readable_pa, "up")}; now ${now}. ${next.lower_part} would ask the most, ${next.upper_part} bear the least.`
        : "";
  return (
    <Section title="What if" aside="nothing here is stored">
      <div className="grid grid-cols-2 gap-3">
        {asked.map(([ask, field]) => (
          <Measured
            key={field}
            label={word("asked", ask)}
            dimension="gauge_pressure_pa"
            value={plan.basis[field]}
            onChange={(v) => setPlan({ ...plan, basis: { ...plan.basis, [field]: v } })}
          />
        ))}
        <Measured label="Height of the gauge" dimension="length_m" value={plan.gauge_elevation_m} onChange={(v) => setPlan({ ...plan, gauge_elevation_m: v ?? 0 })} />
        <Measured
          label="Temperature at the test"
          dimension="temperature_c"
          value={plan.water_temperature_c}
          onChange={(v) => setPlan({ ...plan, water_temperature_c: v ?? 15 })}
        />
        <Field label="Leave out a part">
          {(ids) => (
            <TextInput
              {...ids}
              list={list}
              value={tag}
              onChange={(e) => {
                const chosen = e.target.value;
                const known = derived.parts.some((p) => p.tag === chosen) && !without.includes(chosen);
                setTag(known ? "" : chosen);
                if (known) setWithout([...without, chosen]);
              }}
            />
          )}
        </Field>
      </div>
      <datalist id={list}>
        {derived.parts.slice(0, 500).map((p) => (
          <option key={p.tag} value={p.tag} />
        ))}
      </datalist>
      {without.length ? <p className="m-0 text-sm">Left out: {without.join(", ")}.</p> : null}
      <p role="status" className={`m-0 text-sm font-semibold ${stops || problem ? "text-danger" : ""}`} data-what-if>
        {says}
      </p>
      {against.length ? (
        <ul className="m-0 list-disc pl-5 text-sm text-danger" aria-label="What would still stop it">
          {against.map((sentence) => (
            <li key={sentence}>{sentence}</li>
          ))}
        </ul>
      ) : null}
      {same ? null : (
        <div>
          <Button
            onClick={() => {
              setPlan(pack.plan);
              setWithout([]);
            }}
          >
            Back to the plan
          </Button>
        </div>
      )}
    </Section>
  );
}
