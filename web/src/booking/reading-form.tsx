import { useRef, useState } from "react";
import { http, newId, problemField, sentence } from "../api/client";
import { usePackActions } from "../api/pack";
import { Button, Field, Note, TextInput, useKey } from "../ui";
import { SYMBOL, useFollowUnit, useUnit } from "../units/pressure";
import { HOW_TO_WRITE, instant, now } from "./clock";

interface Props {
  attempt: string;
  gauge: string;
  unit: Parameters<typeof useUnit>[0];
  /** One under the other, large, for a phone in one hand. */
  stacked?: boolean;
}

/** Readings typed by hand: a pressure in any unit, a temperature, the time. */
export function ReadingForm({ attempt, gauge, unit: gaugeUnit, stacked = false }: Props) {
  const { unit } = useUnit(gaugeUnit);
  const { refresh } = usePackActions();
  const [pressure, setPressure] = useState("");
  const [temperature, setTemperature] = useState("");
  const [time, setTime] = useState("");
  const [problem, setProblem] = useState<{ text: string; field?: string; asked?: boolean } | null>(null);
  const [state, setState] = useState("");
  // what was sent and not yet acknowledged: sent again unchanged it has the same ids and time, so it is stored once
  const sent = useRef({ typed: "", p: "", t: "", at: "" });
  useFollowUnit(unit, pressure, setPressure);
  const first = useRef<HTMLInputElement>(null);
  useKey("r", () => first.current?.focus());
  const send = async (sure = false) => {
    setProblem(null);
    const typed = [pressure, temperature, time, unit].join("|");
    if (sent.current.typed !== typed) {
      sent.current = { typed, p: newId(), t: newId(), at: instant(time) ?? "" };
    }
    const { at } = sent.current;
    if (!at) return setProblem({ text: HOW_TO_WRITE, field: "at" });
    const readings = [];
    if (pressure.trim()) readings.push({ id: sent.current.p, at, channel: "pressure" as const, text: pressure, unit, sure });
    if (temperature.trim()) readings.push({ id: sent.current.t, at, channel: "temperature" as const, text: temperature, unit, sure: false });
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
        <Field label={`${gauge} reads, ${SYMBOL[unit]}`} error={error("pressure") ?? error("text")} hint="Or with its unit: 376 psi.">
          {(f) => <TextInput {...f} ref={first} value={pressure} onChange={(e) => setPressure(e.target.value)} inputMode="decimal" />}
        </Field>
        <Field label="Temperature, °C" error={error("temperature")}>
          {(f) => <TextInput {...f} value={temperature} onChange={(e) => setTemperature(e.target.value)} inputMode="decimal" />}
        </Field>
        <Field label="Time (UTC)" error={error("at")} hint="Empty for now.">
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
          <Button onClick={() => void send(true)}>The gauge stands there: store it as read</Button>
        </div>
      ) : null}
      {problem && !problem.field ? (
        <Note kind="stop" live>
          {problem.text}
        </Note>
      ) : null}
      <span role="status" className="text-xs text-soft">
        {state}
      </span>
    </form>
  );
}
