import { useRef, useState } from "react";
import { http, newId, problemField, sentence } from "../api/client";
import { usePackActions } from "../api/pack";
import { keptTyping, useTyping } from "../api/typing";
import { Button, Field, Note, TextInput, useKey } from "../ui";
import { howToWrite, instant, now } from "./clock";
import { inUnits } from "./in-units";
import { type Figures, SYMBOL, toPa, typed, type Unit, useFigures } from "../units";
import { zoneName } from "../api/zone";

interface Props {
  attempt: string;
  gauge: string;
  unit: Unit;
  /** One under the other, large, for a phone in one hand. */
  stacked?: boolean;
}

/** Readings typed by hand: a pressure in any unit, a temperature, the time. */
export function ReadingForm({ attempt, gauge, unit: gaugeUnit, stacked = false }: Props) {
  const show = useFigures();
  // a dial is typed in the unit that it shows
  const unit = gaugeUnit;
  const { refresh } = usePackActions();
  const key = `reading of ${attempt} in ${unit} ${show.symbolOf("temperature_c")}`;
  const [kept] = useState(() => keptTyping<[string, string, string]>(key));
  const [pressure, setPressure] = useState(kept?.[0] ?? "");
  const [temperature, setTemperature] = useState(kept?.[1] ?? "");
  const [time, setTime] = useState(kept?.[2] ?? "");
  const typing = useTyping({ key, what: "a reading", value: () => [pressure, temperature, time], dirty: Boolean(pressure.trim() || temperature.trim()) });
  const [problem, setProblem] = useState<{ text: string; field?: string; asked?: boolean } | null>(null);
  const [state, setState] = useState("");
  // what was sent and not yet acknowledged: sent again unchanged it has the same ids and time, so it is stored once
  const sent = useRef({ typed: "", p: "", t: "", at: "" });
  const first = useRef<HTMLInputElement>(null);
  useKey("r", () => first.current?.focus());
  const send = async (sure = false) => {
    setProblem(null);
    const all = [pressure, temperature, time, unit].join("|");
    if (sent.current.typed !== all) {
      sent.current = { typed: all, p: newId(), t: newId(), at: instant(time) ?? "" };
    }
    const { at } = sent.current;
    if (!at) return setProblem({ text: howToWrite(time), field: "at" });
    const readings = [];
    if (pressure.trim()) readings.push({ id: sent.current.p, at, channel: "pressure" as const, text: pressure, unit, sure });
    if (temperature.trim())
      readings.push({ id: sent.current.t, at, channel: "temperature" as const, text: inUnits(temperature, show.symbolOf("temperature_c")), unit, sure: false });
    if (readings.length === 0) return setProblem({ text: "Type a pressure, a temperature, or both.", field: "text" });
    setState("saving");
    try {
      const { error } = await http.PUT("/api/v1/attempts/{attempt}/readings", { params: { path: { attempt } }, body: { readings } });
      if (error) {
        const field = problemField(error);
        const on = field?.startsWith("readings[0]") && !pressure.trim() ? "temperature" : field?.startsWith("readings[1]") ? "temperature" : "pressure";
        setProblem({ text: sentence(error), field: field?.endsWith(".at") ? "at" : on, asked: (error as { type?: string }).type === "/problems/doubtful" });
        setState("");
        return;
      }
      sent.current.typed = "";
      setPressure("");
      setTemperature("");
      setTime("");
      typing.done();
      setState(`saved ${now()}`);
      first.current?.focus();
      await refresh();
    } catch (e) {
      setProblem({ text: sentence(e) });
      setState("not sent yet: it is still here");
    }
  };
  const error = (field: string) => (problem?.field === field ? problem.text : undefined);
  return (
    <form
      className="grid gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        void send();
      }}
      noValidate
    >
      <div
        className={
          stacked
            ? "grid gap-4 [&_button]:min-h-[72px] [&_button]:w-full [&_button]:text-xl [&_input]:min-h-14 [&_input]:text-2xl"
            : "grid grid-cols-[1fr_1fr_1fr_auto] items-start gap-3 max-[700px]:grid-cols-1"
        }
      >
        <Field dial label={`${gauge} shows, ${SYMBOL[unit]}`} error={error("pressure") ?? error("text")} hint={<Echo text={pressure} unit={unit} show={show} />}>
          {(f) => <TextInput {...f} ref={first} value={pressure} onChange={(e) => setPressure(e.target.value)} inputMode="decimal" />}
        </Field>
        <Field label={`Temperature, ${show.symbolOf("temperature_c")}`} error={error("temperature")}>
          {(f) => <TextInput {...f} value={temperature} onChange={(e) => setTemperature(e.target.value)} inputMode="decimal" />}
        </Field>
        <Field label={`Time (${zoneName()})`} error={error("at")} hint="Leave empty for the time now.">
          {(f) => <TextInput {...f} value={time} onChange={(e) => setTime(e.target.value)} placeholder={now().slice(0, 5)} />}
        </Field>
        <div className={stacked ? "" : "pt-6"}>
          <Button type="submit" kind="main" disabled={state === "saving"}>
            Store (r)
          </Button>
        </div>
      </div>
      {problem?.asked ? (
        <div>
          <Button onClick={() => void send(true)}>The gauge really shows this: store it</Button>
        </div>
      ) : null}
      {problem && !problem.field ? (
        <Note kind="stop" live>
          {problem.text}
        </Note>
      ) : null}
      <span role="status" className="text-xs text-soft">
        {state || typing.words}
      </span>
    </form>
  );
}

/** What was typed of a dial, in the person's own unit beside it. */
function Echo({ text, unit, show }: { text: string; unit: Unit; show: Figures }) {
  const read = typed(text, "gauge_pressure_pa", { factor: 1 / toPa(1, unit), offset: 0 }).si;
  if (read == null) return "As the dial shows it, or with another unit; between two marks as 4.2 to 4.4.";
  return show.unit === unit ? `Read as ${show.free(read)}.` : `That is ${show.free(read)}.`;
}
