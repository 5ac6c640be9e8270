import type { Schema } from "../../api/client";
import { offered } from "../../api/words";
import { Choice, Field, Select, TextInput } from "../../ui";
import { useFigures } from "../../units";

export interface DayTyped {
  thermometer: string;
  hand_pump: "" | "yes";
  stroke: string;
  signers: Schema["Signers"];
}

export const NO_DAY: DayTyped = { thermometer: "", hand_pump: "", stroke: "", signers: "one" };

interface Props {
  typed: DayTyped;
  set: (more: Partial<DayTyped>) => void;
  thermometers: readonly Schema["InstrumentView"][];
  wrong: Record<string, string>;
}

/** How the water is raised, by whom, and who signs. */
export function Day({ typed, set, thermometers, wrong }: Props) {
  const show = useFigures();
  const beside = show.axis(0.00003, "volume_m3");
  return (
    <div className="grid gap-4">
      <label className="flex min-h-11 cursor-pointer items-start gap-3">
        <input
          type="checkbox"
          className="mt-1 size-5 accent-water"
          checked={typed.hand_pump === "yes"}
          onChange={(e) => set({ hand_pump: e.target.checked ? "yes" : "" })}
        />
        <span>
          I pump by hand
          <span className="block text-sm text-soft">
            I stay at the pump, in part strokes near the end, eyes on the gauge, one hand at the bleed. A hand pump stops within a stroke; without this word a relief
            valve is asked for before it begins.
          </span>
        </span>
      </label>
      <div className="grid grid-cols-2 items-start gap-4 max-[500px]:grid-cols-1">
        <Field label={`One stroke of the pump, ${beside.symbol}`} hint="Empty: not known, and no rise a stroke is told." error={wrong.stroke}>
          {(ids) => <TextInput {...ids} value={typed.stroke} onChange={(e) => set({ stroke: e.target.value })} inputMode="decimal" />}
        </Field>
        <Field label="Thermometer" hint={typed.thermometer ? undefined : "None: a fall by cooling cannot be told from a leak then, and warming can hide one."}>
          {(ids) => (
            <Select
              {...ids}
              value={typed.thermometer}
              onChange={(e) => set({ thermometer: e.target.value })}
              options={[["", "none"], ...thermometers.map((t) => [t.instrument.tag, `${t.instrument.tag}${t.objection ? ", not in date" : ""}`] as const)]}
            />
          )}
        </Field>
      </div>
      <Choice
        even
        legend="Who signs?"
        name="signers"
        value={typed.signers}
        onChange={(signers) => set({ signers: signers as DayTyped["signers"] })}
        options={offered("signers")}
      />
    </div>
  );
}
