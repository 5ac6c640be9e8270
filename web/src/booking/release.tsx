import { useRef, useState } from "react";
import { http, newId, problemField, sentence } from "../api/client";
import { useLive } from "../live";
import { Button, Dialog, Field, Problem, TextInput } from "../ui";
import { useBook } from "./book";
import { howToWrite, instant, now } from "./clock";
import { LeakMap } from "./leak-map";
import { SYMBOL, type Unit, useFigures } from "../units";
import { zoneName } from "../api/zone";
import { useAttempt, usePack } from "../api/pack";

interface Props {
  attempt: string;
  gauge: string;
  unit: Unit;
  open: boolean;
  onClose: () => void;
  title: string;
  description: string;
}

/** That the pressure is out: what the gauge shows now, or how zero was proved where no gauge can be read. */
export function ReleaseDialog({ attempt, gauge, unit: gaugeUnit, open, onClose, title, description }: Props) {
  const show = useFigures(usePack());
  // a dial is typed in the unit that it shows
  const unit = gaugeUnit;
  const { view } = useLive();
  const { book, problem, busy } = useBook(attempt);
  const others = (useAttempt()?.further ?? []).filter((f) => f.channel === "pressure" && !f.recorded);
  const [reads, setReads] = useState<Record<string, string>>({});
  const [word, setWord] = useState("");
  const [time, setTime] = useState("");
  const [refused, setRefused] = useState<{ text: string; field?: string }>({ text: "" });
  // typed once, however often it is sent
  const sent = useRef({ typed: "", ids: [] as string[] });
  const live = view && !view.silent && !view.typed_by && view.recorded && view.pressure_pa != null;
  const release = async () => {
    setRefused({ text: "" });
    const at = instant(time);
    if (!at) return setRefused({ text: howToWrite(time), field: "at" });
    const dials = [{ tag: "", unit }, ...others].filter((d) => reads[d.tag]?.trim());
    if (dials.length) {
      const typed = JSON.stringify([reads, unit]);
      if (sent.current.typed !== typed) sent.current = { typed, ids: dials.map(newId) };
      const readings = dials.map((d, i) => {
        const id = sent.current.ids[i] ?? newId();
        return { id, at, channel: "pressure" as const, of: d.tag, text: reads[d.tag] ?? "", unit: d.unit, sure: true };
      });
      try {
        const { error } = await http.PUT("/api/v1/attempts/{attempt}/readings", { params: { path: { attempt } }, body: { readings } });
        const of = dials[Number(/^readings\[(\d+)\]/.exec(problemField(error) ?? "")?.[1] ?? 0)];
        if (error) return setRefused({ text: sentence(error), field: `reads ${of?.tag ?? ""}` });
      } catch (e) {
        return setRefused({ text: sentence(e) });
      }
    }
    if (await book("released", { note: word, ...(time.trim() ? { at } : {}) })) {
      setReads({});
      setWord("");
      setTime("");
      onClose();
    }
  };
  return (
    <Dialog open={open} onOpenChange={(o) => !o && onClose()} title={title} description={description}>
      <form
        className="grid gap-3"
        noValidate
        onSubmit={(e) => {
          e.preventDefault();
          void release();
        }}
      >
        <LeakMap upright="m-0 text-sm" />
        {live ? (
          <p className="m-0 text-base" data-release-reads>
            {gauge} reads <strong className="num text-lg">{show.p(view.pressure_pa ?? 0)}</strong> now, live.
          </p>
        ) : (
          <Field
            dial
            label={`${gauge} shows now, ${SYMBOL[unit]}`}
            hint="Read it again once the bleed is open and nothing comes out."
            error={refused.field === "reads " ? refused.text : undefined}
          >
            {(f) => <TextInput {...f} value={reads[""] ?? ""} onChange={(e) => setReads({ ...reads, "": e.target.value })} inputMode="decimal" />}
          </Field>
        )}
        {others.map((o) => (
          <Field key={o.tag} dial label={`${o.tag} shows now, ${SYMBOL[o.unit]}`} error={refused.field === `reads ${o.tag}` ? refused.text : undefined}>
            {(f) => <TextInput {...f} value={reads[o.tag] ?? ""} onChange={(e) => setReads({ ...reads, [o.tag]: e.target.value })} inputMode="decimal" />}
          </Field>
        ))}
        {live && !others.length ? null : (
          <>
            <Field label="If no gauge can be read: how zero was proved" hint="By which vent or gauge, and by whom. The record says that it rests on this word.">
              {(f) => <TextInput {...f} value={word} onChange={(e) => setWord(e.target.value)} maxLength={400} />}
            </Field>
            <Field label={`Zero proved at (${zoneName()})`} hint="Leave empty for the time now." error={refused.field === "at" ? refused.text : undefined}>
              {(f) => <TextInput {...f} value={time} onChange={(e) => setTime(e.target.value)} placeholder={now().slice(0, 5)} />}
            </Field>
          </>
        )}
        <Problem>{refused.field ? "" : refused.text || problem}</Problem>
        <Button type="submit" kind="danger" size="huge" disabled={busy}>
          Released, zero proved in every section
        </Button>
        <Button size="large" onClick={onClose}>
          Not yet
        </Button>
      </form>
    </Dialog>
  );
}
