import type { Schema } from "../api/client";
import { usePack } from "../api/pack";
import { useAgainst } from "../api/against";
import { Field, TextInput } from "../ui";
import { usePlanDraft } from "./draft";
import { DraftForm } from "./draft-form";
import { Measured } from "./measured";

type Site = Schema["Site"];

/** What is on site: source, pump, drain, soil, temperatures, the start of the day. Only what this test can use is asked. */
export function SiteFields() {
  const pack = usePack();
  const draft = usePlanDraft("the site");
  const site = (draft.draft.site ?? {}) as Site;
  const set = (key: keyof Site) => (value: number | null) => draft.set({ site: { ...site, [key]: value } });
  const gas = draft.draft.basis.medium != null && draft.draft.basis.medium !== "liquid";
  const ends = pack.derived?.parts.some((p) => ["blind", "bend", "closed valve"].includes(p.kind)) ?? false;
  const main = pack.plan.object === "water_main" || pack.plan.object === "fire_main";
  const against = useAgainst();
  return (
    <DraftForm draft={draft} save="Save the site">
      {gas ? null : (
        <>
          <Measured
            label="Source gives"
            dimension="volume_flow_m3_per_s"
            hint="What is really there."
            value={site.source_flow_m3_per_s}
            onChange={set("source_flow_m3_per_s")}
          />
          <Measured label="Water at hand" dimension="volume_m3" hint="From an earlier test." value={site.water_at_hand_m3} onChange={set("water_at_hand_m3")} />
          {draft.draft.liquid ? null : (
            <Measured
              label="Chloride in the water, ppm"
              hint="By certificate or test strip. Needed where austenitic steel is wetted."
              error={against("site.chloride_ppm")}
              value={site.chloride_ppm}
              onChange={set("chloride_ppm")}
            />
          )}
          <Measured label="Source" dimension="temperature_c" value={site.source_c} onChange={set("source_c")} />
          <Measured label="Surroundings" dimension="temperature_c" value={site.surroundings_c} onChange={set("surroundings_c")} />
          <Measured
            label="Air that stays in"
            dimension="volume_m3"
            size="small"
            hint="A dome or pocket that no vent reaches, as a volume at filling. Empty: as much as a careful venting leaves in doubt."
            value={site.trapped_air_m3}
            onChange={set("trapped_air_m3")}
          />
          <Measured label="Hand pump, each stroke" dimension="volume_m3" size="small" value={site.stroke_m3} onChange={set("stroke_m3")} />
          <Measured label="Driven pump" dimension="volume_flow_m3_per_s" size="small" value={site.pump_flow_m3_per_s} onChange={set("pump_flow_m3_per_s")} />
          <Measured
            label="Relief valve passes"
            dimension="volume_flow_m3_per_s"
            size="small"
            hint="At its set pressure, by its certificate."
            value={site.relief_capacity_m3_per_s}
            onChange={set("relief_capacity_m3_per_s")}
          />
          <Measured label="Drain, bore" dimension="length_m" size="small" value={site.drain_bore_m} onChange={set("drain_bore_m")} />
        </>
      )}
      <Measured
        label="Surroundings change over the hold"
        dimension="temperature_difference_k"
        hint="What the day is expected to do."
        value={site.swing_k}
        onChange={set("swing_k")}
      />
      {main ? (
        <Measured
          label="Hydrants open to the main"
          hint="Each adds to what it may lose."
          value={site.hydrants}
          onChange={(v) => set("hydrants")(v == null ? null : Math.round(v))}
        />
      ) : null}
      {ends ? (
        <Measured
          label="Soil behind blocks bears"
          dimension="gauge_pressure_pa"
          hint="The engineer's figure."
          value={site.soil_bearing_pa}
          onChange={set("soil_bearing_pa")}
        />
      ) : null}
      <Measured
        label="Metal or pipe wall at the test"
        dimension="temperature_c"
        hint="What is expected; an honest estimate is enough."
        error={against("site.metal_c")}
        value={site.metal_c}
        onChange={set("metal_c")}
      />
      <Measured
        label="Minimum design metal temperature"
        dimension="temperature_c"
        hint="From the plate or the calculation. Empty: a gas test is stopped, and so is a basis that asks for it."
        error={against("site.minimum_metal_c")}
        value={site.minimum_metal_c}
        onChange={set("minimum_metal_c")}
      />
      {gas ? <Measured label="Closed room around it" dimension="volume_m3" hint="Empty in the open." value={site.room_m3} onChange={set("room_m3")} /> : null}
      <Measured
        label="Stopping the pump takes"
        dimension="time_s"
        size="small"
        hint="Three seconds where nothing is entered."
        value={site.reaction_s}
        onChange={set("reaction_s")}
      />
      <Field label="Filling starts at" hint="As 07:30.">
        {(ids) => <TextInput {...ids} value={site.start ?? ""} onChange={(e) => draft.set({ site: { ...site, start: e.target.value || null } })} />}
      </Field>
    </DraftForm>
  );
}
