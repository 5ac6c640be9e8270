import { type ChangeEvent, useRef, useState } from "react";
import { type Attempt, http, newId, problemField, type Schema, sentence } from "../api/client";
import { usePackActions } from "../api/pack";
import { keptTyping, useTyping } from "../api/typing";
import { Button, Field, Note, TextInput, useKey } from "../ui";
import { howToWrite, instant, now } from "./clock";
import { inUnits } from "./in-units";
import { type Figures, SYMBOL, toPa, typed, type Unit, useFigures } from "../units";
import { zoneName } from "../api/zone";

interface Props {
  attempt: Attempt;
  gauge: string;
  unit: Unit;
  /** One under the other, large, for a phone in one hand. */
  stacked?: boolean;
}

/** Readings typed by hand: a pressure in any unit, a temperature, the time. */
export function ReadingForm({ attempt: { id: attempt, further }, gauge, unit: gaugeUnit, stacked = false }: Props) {
  const show = useFigures();
  // a dial is typed in the unit that it shows
  const unit = gaugeUnit;
  const { refresh } = usePackActions();
  const degrees = show.symbolOf("temperature_c");
  const others = further.filter((f) => !f.recorded);
  const key = `reading of ${attempt} in ${unit} ${degrees}`;
  const [kept] = useState(() => keptTyping<Record<string, string>>(key));
  const [cells, setCells] = useState<Record<string, string>>(kept ?? {});
  const of = (name: string) => (cells[name] ?? "").trim();
  const read = ["pressure", "temperature", ...others.map((o) => o.tag)];
  const typing = useTyping({ key, what: "a reading", value: () => cells, dirty: read.some((name) => of(name)) });
  const [problem, setProblem] = useState<{ text: string; field?: string; asked?: boolean } | null>(null);
  const [state, setState] = useState("");
  // what was sent and not yet acknowledged: sent again unchanged it has the same ids and time, so it is stored once
  const sent = useRef({ typed: "", ids: new Map<string, string>(), at: "" });
  const first = useRef<HTMLInputElement>(null);
  useKey("r", () => first.current?.focus());
  const send = async (sure = false) => {
    setProblem(null);
    const all = [...read.map(of), of("time"), unit].join("|");
    if (sent.current.typed !== all) sent.current = { typed: all, ids: new Map(read.map((name) => [name, newId()])), at: instant(of("time")) ?? "" };
    const { at, ids } = sent.current;
    if (!at) return setProblem({ text: howToWrite(of("time")), field: "time" });
    const dial = (name: string, tag: string, channel: Schema["TypedReading"]["channel"], shows: Unit) => {
      const text = channel === "pressure" ? of(name) : inUnits(of(name), degrees);
      return { name, body: { id: ids.get(name) ?? newId(), at, channel, of: tag, text, unit: shows, sure } };
    };
    const everything = [
      dial("pressure", "", "pressure", unit),
      dial("temperature", "", "temperature", unit),
      ...others.map((o) => dial(o.tag, o.tag, o.channel, o.unit)),
    ];
    const readings = everything.filter((r) => of(r.name));
    if (readings.length === 0) return setProblem({ text: "Type a pressure, a temperature, or both.", field: "pressure" });
    setState("saving");
    try {
      const { error } = await http.PUT("/api/v1/attempts/{attempt}/readings", { params: { path: { attempt } }, body: { readings: readings.map((r) => r.body) } });
      if (error) {
        const field = problemField(error);
        const on = readings[Number(/^readings\[(\d+)\]/.exec(field ?? "")?.[1] ?? 0)]?.name ?? "pressure";
        setProblem({ text: sentence(error), field: field?.endsWith(".at") ? "time" : on, asked: (error as { type?: string }).type === "/problems/doubtful" });
        setState("");
        return;
      }
      sent.current.typed = "";
      setCells({});
      typing.done();
      setState(`saved ${now()}`);
      first.current?.focus();
      await refresh();
    } catch (e) {
      setProblem({ text: sentence(e) });
      setState("not sent yet: it is still here");
    }
  };
  const put = (name: string) => (e: ChangeEvent<HTMLInputElement>) => setCells({ ...cells, [name]: e.target.value });
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
            : `grid items-start gap-3 ${others.length ? "grid-cols-[repeat(auto-fill,minmax(11rem,1fr))]" : "grid-cols-[1fr_1fr_1fr_auto]"} max-[700px]:grid-cols-1`
        }
      >
        <Field dial label={`${gauge} shows, ${SYMBOL[unit]}`} error={error("pressure")} hint={<Echo text={of("pressure")} unit={unit} show={show} />}>
          {(f) => <TextInput {...f} ref={first} value={cells.pressure ?? ""} onChange={put("pressure")} inputMode="decimal" />}
        </Field>
        {others.map((o) =>
          o.channel === "pressure" ? (
            <Field key={o.tag} dial label={`${o.tag} shows, ${SYMBOL[o.unit]}`} error={error(o.tag)} hint={<Echo text={of(o.tag)} unit={o.unit} show={show} />}>
              {(f) => <TextInput {...f} value={cells[o.tag] ?? ""} onChange={put(o.tag)} inputMode="decimal" />}
            </Field>
          ) : null,
        )}
        <Field label={`Temperature, ${degrees}`} error={error("temperature")}>
          {(f) => <TextInput {...f} value={cells.temperature ?? ""} onChange={put("temperature")} inputMode="decimal" />}
        </Field>
        {others.map((o) =>
          o.channel === "temperature" ? (
            <Field key={o.tag} label={`${o.tag}, ${degrees}`} error={error(o.tag)}>
              {(f) => <TextInput {...f} value={cells[o.tag] ?? ""} onChange={put(o.tag)} inputMode="decimal" />}
            </Field>
          ) : null,
        )}
        <Field label={`Time (${zoneName()})`} error={error("time")} hint="Leave empty for the time now.">
          {(f) => <TextInput {...f} value={cells.time ?? ""} onChange={put("time")} placeholder={now().slice(0, 5)} />}
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
