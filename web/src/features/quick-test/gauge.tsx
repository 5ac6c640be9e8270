import { useEffect, useState } from "react";
import { http, type Schema, sentence } from "../../api/client";
import { Choice, Field, Select, TextInput } from "../../ui";
import type { Figures } from "../../units";
import { toPa, useFigures } from "../../units";

export interface GaugeTyped {
  /** A tag of the store; "own" for one that is in none. */
  gauge: string;
  reads_to: string;
  mark: string;
  calibrated: "" | "yes" | "no";
  until: string;
}

export const NO_GAUGE: GaugeTyped = { gauge: "", reads_to: "", mark: "", calibrated: "", until: "" };
const OWN = "own";

/** What is sent of a gauge: its tag, or its three figures. */
export function gaugeBody(g: GaugeTyped, symbol: string): Pick<Schema["QuickTest"], "gauge" | "own_gauge"> {
  if (g.gauge !== OWN) return { gauge: g.gauge, own_gauge: null };
  const unit = (t: string) => (/^[\d.,\s]+$/.test(t.trim()) && t.trim() ? `${t.trim()} ${symbol}` : t.trim());
  return { gauge: "", own_gauge: { reads_to: unit(g.reads_to), mark: unit(g.mark), until: g.until, not_calibrated: g.calibrated === "no" } };
}

/** A gauge of the store as somebody chooses one: how far it reads, to which mark, and until when. */
function gaugeWords({ instrument: i, objection }: Schema["InstrumentView"], show: Figures): string {
  const range = i.full_scale_pa == null ? "range not known" : `0 to ${show.free(i.full_scale_pa)}`;
  // a fine mark is told to its own digits
  const marks = i.division_pa == null ? "" : `, smallest mark ${Number((i.division_pa / toPa(1, show.unit)).toPrecision(2))} ${show.symbol}`;
  const until = objection ? "not in date" : i.valid_until ? `calibrated until ${i.valid_until}` : "not calibrated";
  return `${i.tag}: ${range}${marks}, ${until}`;
}

interface Props {
  typed: GaugeTyped;
  set: (more: Partial<GaugeTyped>) => void;
  gauges: readonly Schema["InstrumentView"][];
  /** What is answered so far, as it would be sent; the gauges that suit follow from it. */
  body: Schema["QuickTest"];
  wrong: Record<string, string>;
}

/** Which gauge: those that suit first, then the others with why not; or one's own in three figures. */
export function GaugeChoice({ typed, set, gauges, body, wrong }: Props) {
  const show = useFigures();
  const fit = useFit(body);
  const against = (tag: string) => fit?.gauges.find((g) => g.tag === tag)?.against ?? "";
  const suits = gauges.filter((g) => fit && !against(g.instrument.tag));
  const others = gauges.filter((g) => !suits.includes(g));
  const own = typed.gauge === OWN;
  const mismatch = fit && typed.gauge && !own ? against(typed.gauge) : "";
  return (
    <div className="grid gap-3">
      <Field
        label="Gauge"
        hint={fit?.asked ?? (gauges.length ? "Answer what stands above: then the gauges that suit stand first." : "No gauge stands in the store: describe your own.")}
        error={wrong.gauge ?? (mismatch || undefined)}
      >
        {(ids) => (
          <Select
            {...ids}
            value={typed.gauge}
            onChange={(e) => set({ gauge: e.target.value })}
            options={[
              ["", "choose"],
              ...suits.map((g) => [g.instrument.tag, `suits: ${gaugeWords(g, show)}`] as const),
              [OWN, "my own gauge, in no store"],
              ...others.map((g) => [g.instrument.tag, `${fit ? "does not suit: " : ""}${gaugeWords(g, show)}`] as const),
            ]}
          />
        )}
      </Field>
      {own ? (
        <div className="grid grid-cols-2 items-start gap-4 max-[500px]:grid-cols-1" data-own-gauge>
          <Field label={`It reads to, ${show.symbol}`} hint="The last figure on its dial." error={wrong["own_gauge.reads_to"]}>
            {(ids) => <TextInput {...ids} value={typed.reads_to} onChange={(e) => set({ reads_to: e.target.value })} inputMode="decimal" />}
          </Field>
          <Field label={`Between two marks, ${show.symbol}`} hint="How much lies from one mark to the next." error={wrong["own_gauge.mark"]}>
            {(ids) => <TextInput {...ids} value={typed.mark} onChange={(e) => set({ mark: e.target.value })} inputMode="decimal" />}
          </Field>
          <div className="col-span-full grid gap-2">
            <Choice
              legend="Is it calibrated?"
              name="calibrated"
              value={typed.calibrated}
              onChange={(calibrated) => set({ calibrated: calibrated as GaugeTyped["calibrated"] })}
              options={[
                ["yes", "yes, until a day", ""],
                ["no", "no", "the record says so, and it is your own information"],
              ]}
            />
            {typed.calibrated === "yes" ? (
              <Field label="Calibrated until" hint="As 2027-06-01." error={wrong["own_gauge.until"]}>
                {(ids) => <TextInput {...ids} value={typed.until} onChange={(e) => set({ until: e.target.value })} />}
              </Field>
            ) : wrong["own_gauge.until"] ? (
              <p role="alert" className="m-0 text-sm font-semibold text-danger">
                {wrong["own_gauge.until"]}
              </p>
            ) : null}
          </div>
        </div>
      ) : null}
    </div>
  );
}

/** After the last key, ms. */
const AFTER = 500;

/** Which gauges suit what is answered; nothing while answers are missing. */
function useFit(body: Schema["QuickTest"]): (Schema["GaugesFit"] & { why?: string }) | null {
  const [fit, setFit] = useState<Schema["GaugesFit"] | null>(null);
  // what the gauge is does not change which would suit
  const asked = JSON.stringify({ ...body, gauge: "", own_gauge: null });
  useEffect(() => {
    let current = true;
    const timer = setTimeout(async () => {
      try {
        const { data, error } = await http.POST("/api/v1/quick/gauges", { body: JSON.parse(asked) as Schema["QuickTest"] });
        if (current) setFit(data ?? (missing(error) ? null : { asked: sentence(error), gauges: [] }));
      } catch {
        if (current) setFit(null);
      }
    }, AFTER);
    return () => {
      current = false;
      clearTimeout(timer);
    };
  }, [asked]);
  return fit;
}

/** True where only answers are missing, which the page says at their places when it is sent. */
const missing = (error: unknown) => Boolean(error && typeof error === "object" && "fields" in error && Array.isArray(error.fields) && error.fields.length);
