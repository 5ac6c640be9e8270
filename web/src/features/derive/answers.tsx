import type { Derived } from "../../api/client";
import { usePack } from "../../api/pack";
import { Section } from "../../ui";
import { decimalsFor, fineDivision, useUnit, withUnit } from "../../units/pressure";

/** A figure with two significant digits and its unit. */
function amount(value: number, unit: string, digits = 2): string {
  return `${Number(value.toPrecision(digits))}\u00a0${unit}`;
}

function energy(j: number): string {
  if (j >= 1e6) return amount(j / 1e6, "MJ", 3);
  return j > 1e4 ? amount(j / 1e3, "kJ", 3) : amount(j, "J", 3);
}

/** Questions that come up, answered in one line each before they are asked. */
export function Answers({ derived }: { derived: Derived }) {
  const pack = usePack();
  const { unit } = useUnit(pack.unit);
  const d = decimalsFor(pack.gauge.division_pa, unit);
  const fine = decimalsFor(fineDivision(pack.gauge.division_pa), unit);
  const day = derived.day;
  const lines: [string, string][] = [];
  if (derived.volume_m3 != null)
    lines.push([
      derived.medium === "liquid" ? "How much water?" : "How much gas?",
      derived.volume_m3 < 0.1 ? amount(derived.volume_m3 * 1e3, "L", 3) : amount(derived.volume_m3, "m³", 3),
    ]);
  if (derived.pumped_without_air_m3 != null && derived.pumped_with_air_m3 != null) {
    const [dry, air] = [derived.pumped_without_air_m3 * 1e3, derived.pumped_with_air_m3 * 1e3];
    const show = (l: number) => (l < 0.1 ? amount(l * 1e3, "mL") : amount(l, "L"));
    lines.push(["How much to pump?", `${show(dry)} without air, ${show(air)} with 0.2 % of air`]);
  }
  if (derived.pressure_per_kelvin != null)
    lines.push([
      "And if it cools?",
      `${withUnit(derived.pressure_per_kelvin, unit, 1)} per kelvin; ${withUnit(derived.predicted_fall_pa, unit, fine)} is allowed for in the planned pressure`,
    ]);
  if (derived.time_constant_s != null)
    lines.push(["Is it warm enough?", `10 K to 1 K takes about ${amount((derived.time_constant_s / 3600) * Math.log(10), "h")} in still air`]);
  const gas = derived.gas;
  if (gas) lines.push(["Where to stop first?", `at ${withUnit(gas.first_stop_pa, unit, d, "down")}, and look at every joint there`]);
  if (gas?.energy_ideal_j != null) {
    const real = gas.energy_real_j != null ? `, ${energy(gas.energy_real_j)} by the real gas` : "; the real gas would begin to condense, so this bound stands alone";
    const water = gas.energy_water_j
      ? `; water would store ${energy(gas.energy_water_j)}, ${Number((gas.energy_ideal_j / gas.energy_water_j).toPrecision(2))} times less`
      : "";
    lines.push(["How much energy?", `${energy(gas.energy_ideal_j)}, as ${amount(gas.tnt_kg ?? 0, "kg")} of TNT${real}${water}`]);
  }
  if (gas?.distance_m != null)
    lines.push([
      "Where may people stand?",
      `${Math.ceil(gas.distance_m)}\u00a0m away and farther; fragments fly farther still (fixed ${gas.distance_fixed_m}, by blast ${amount(gas.distance_blast_m ?? 0, "m", 3)})`,
    ]);
  if (derived.stored_energy_j != null)
    lines.push(["How much energy?", derived.stored_energy_j > 1e4 ? amount(derived.stored_energy_j / 1e3, "kJ") : amount(derived.stored_energy_j, "J")]);
  if (day?.relief_set_pa != null)
    lines.push([
      "Where does the relief valve go?",
      `${withUnit(day.relief_set_pa, unit, d, "down")}; with ${Math.round((pack.plan.settings?.relief_accumulation ?? 0.1) * 100)} % accumulation it stays below ${withUnit(derived.upper_shown_pa, unit, fine, "down")}`,
    ]);
  if (derived.gauge_offer) lines.push(["Which gauge?", `0 to ${derived.gauge_offer.offered_pa.map((p) => withUnit(p, unit, 0)).join(", ")}`]);
  if (lines.length === 0) return null;
  return (
    <Section title="What follows">
      <dl className="m-0 text-sm">
        {lines.map(([q, a]) => (
          <div key={q} className="grid grid-cols-[11rem_1fr] gap-3 border-b border-hair py-1.5">
            <dt className="text-soft">{q}</dt>
            <dd className="m-0">{a}</dd>
          </div>
        ))}
      </dl>
    </Section>
  );
}
