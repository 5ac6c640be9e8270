import type { Plan, Schema } from "../api/client";
import { offered, word } from "../api/words";
import { Measured } from "./measured";
import { Button, Field, Select } from "../ui";

type Also = NonNullable<Plan["also"]>;

interface Props {
  also: Also;
  instruments: Schema["Instrument"][];
  /** Tags that are chosen already. */
  taken: readonly string[];
  onChange: (also: Also) => void;
}

/** What is recorded beside gauge and thermometer: a second gauge with its height, the air, the pump's strokes. */
export function AlsoRecorded({ also, instruments, taken, onChange }: Props) {
  const free = instruments.filter((i) => !taken.includes(i.tag) && !also.some((a) => a.tag === i.tag));
  const change = (tag: string, by: Partial<Also[number]>) => onChange(also.map((a) => (a.tag === tag ? { ...a, ...by } : a)));
  return (
    <div className="col-span-2 grid gap-2">
      <span className="text-sm font-semibold">Recorded beside them</span>
      {also.map((a) => {
        const kind = instruments.find((i) => i.tag === a.tag)?.kind;
        return (
          <div key={a.tag} className="grid grid-cols-[8rem_1fr_auto] items-center gap-3" data-also={a.tag}>
            <span className="num font-semibold">{a.tag}</span>
            {kind === "gauge" ? (
              <Measured label={`Height of ${a.tag}`} dimension="length_m" value={a.elevation_m ?? 0} onChange={(m) => change(a.tag, { elevation_m: m ?? 0 })} />
            ) : kind === "thermometer" ? (
              <Field label={`${a.tag} sits`}>
                {(f) => (
                  <Select
                    {...f}
                    options={offered("thermometer_place")}
                    value={a.place ?? "skin"}
                    onChange={(e) => change(a.tag, { place: e.target.value as Also[number]["place"] })}
                  />
                )}
              </Field>
            ) : (
              <span className="text-sm text-soft">{kind ? "strokes of the pump" : "not in the store"}</span>
            )}
            <Button onClick={() => onChange(also.filter((x) => x.tag !== a.tag))}>Take off</Button>
          </div>
        );
      })}
      {free.length ? (
        <Field label="Add an instrument to be recorded">
          {(f) => (
            <Select
              {...f}
              value=""
              options={[["", "choose one"], ...free.map((i) => [i.tag, `${i.tag}, ${word("instrument_kind", i.kind)}`] as const)]}
              onChange={(e) => e.target.value && onChange([...also, { tag: e.target.value, elevation_m: 0, place: "ambient" }])}
            />
          )}
        </Field>
      ) : null}
    </div>
  );
}
