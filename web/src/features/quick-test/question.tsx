import type { Schema } from "../../api/client";
import { offeredOrNone } from "../../api/words";
import { Choice, Field, Select, TextInput } from "../../ui";
import { type Figures, names, typed, useFigures, useFollow, useFollowUnit } from "../../units";

interface Props {
  ask: Schema["Ask"];
  value: string;
  error: string | undefined;
  materials: readonly Schema["MaterialChoice"][];
  /** Of the materials those that go with the plate. */
  goes?: readonly string[];
  onChange: (text: string) => void;
}

/** The option that stands chosen. */
export const chosen = (ask: Schema["Ask"], value: string) => ask.options?.find((o) => o.key === (value || ask.starts || ask.options?.[0]?.key));

/** One question to the owner, as its data has it. */
export function Question({ ask, value, error, materials, goes, onChange }: Props) {
  if (ask.is === "choice") return <OneOf ask={ask} value={value} error={error} onChange={onChange} />;
  if (ask.is === "pressure" || ask.is === "temperature") return <Measured ask={ask} value={value} error={error} onChange={onChange} />;
  return <Written ask={ask} value={value} error={error} materials={materials} goes={goes} onChange={onChange} />;
}

/** One of a few answers, each with what it means; why the test ends here stands beneath. */
function OneOf({ ask, value, error, onChange }: Omit<Props, "materials">) {
  const chosen = value || ask.starts || ask.options?.[0]?.key || "";
  const stops = ask.options?.find((o) => o.key === chosen)?.stops || error;
  return (
    <div className="col-span-full grid gap-2">
      <Choice legend={ask.words} name={ask.key} value={chosen} onChange={onChange} options={(ask.options ?? []).map((o) => [o.key, o.words, o.means ?? ""] as const)} />
      {stops ? (
        <p role="alert" className="m-0 text-sm font-semibold text-danger">
          {stops}
        </p>
      ) : null}
    </div>
  );
}

/** A pressure or a temperature, in the unit that stands beside it. */
function Measured({ ask, value, error, onChange }: Omit<Props, "materials">) {
  const show = useFigures();
  const warmth = show.unitFor("temperature_c");
  const pressure = ask.is === "pressure";
  useFollowUnit(show.unit, pressure ? value : "", (text) => pressure && onChange(text));
  useFollow(warmth, pressure ? "" : value, (text) => !pressure && onChange(text));
  return (
    <Field label={`${ask.words}, ${pressure ? show.symbol : warmth.symbol}`} hint={ask.hint} error={error}>
      {(ids) => <TextInput {...ids} value={value} onChange={(e) => onChange(e.target.value)} inputMode="decimal" />}
    </Field>
  );
}

/** What somebody might answer, in the lengths and volumes that they read; figure and unit never part. */
function example(ask: Schema["Ask"], show: Figures): string {
  const like = (show.units.length === "foot" ? ask.like_us : ask.like) ?? "";
  const water = names(ask.like ?? "", "volume_m3") ? typed(ask.like ?? "", "volume_m3", { factor: 1, offset: 0 }).si : undefined;
  return water == null ? like.replace(/(\d) /g, "$1\u00a0") : show.of(water, "volume_m3");
}

function Written({ ask, value, error, materials, goes, onChange }: Props) {
  const show = useFigures();
  const like = example(ask, show);
  const named = (id: string) => materials.find((m) => m.id === id)?.name ?? id;
  const hint = [ask.hint, ask.is === "text" && like ? `For example ${like}.` : ""].filter(Boolean).join(" ");
  return (
    <Field label={ask.is === "time" ? `${ask.words}, min` : ask.words} hint={hint || undefined} error={error}>
      {(ids) => {
        if (ask.is === "material")
          return (
            <Select
              {...ids}
              value={value}
              onChange={(e) => onChange(e.target.value)}
              options={[["", "choose"], ...(goes ?? ask.materials ?? []).map((m) => [m, named(m)] as const)]}
            />
          );
        if (ask.is === "seam") return <Select {...ids} value={value} onChange={(e) => onChange(e.target.value)} options={offeredOrNone("seam", "nobody knows")} />;
        return <TextInput {...ids} value={value} onChange={(e) => onChange(e.target.value)} />;
      }}
    </Field>
  );
}
