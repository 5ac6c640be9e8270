import { useState } from "react";
import { type Attempt, newId, http, type Schema, sentence } from "../api/client";
import { usePack } from "../api/pack";
import { useKept } from "../api/typing";
import { byHand } from "../api/words";
import { zoneName } from "../api/zone";
import { Button, Dialog, Field, Problem, Select, TextInput } from "../ui";
import { type Dimension, type Figures, SYMBOL, typed, useFigures } from "../units";
import { useBook } from "./book";
import { howToWrite, instant, now } from "./clock";

type Kind = Schema["EventKind"];
type Asked = Schema["ByHand"];

const NOTHING = { kind: "" as Kind | "", figure: "", of: "", reads: "", note: "", time: "" };

/** Bookings with which the gauge is read: what was pumped tells something only beside a pressure. */
const READ_WITH: readonly Kind[] = ["stroked", "pumped", "mains_on"];

/** What a thing can be, where it is one of a few. */
function few(kind: Kind | "", gauges: readonly string[]): readonly (readonly [string, string])[] | null {
  const each = (all: readonly string[]) => all.map((words) => [words, words] as const);
  if (kind === "beyond_scale") return each(gauges);
  if (kind === "soaped") return each(["soap on every joint", "under water in a tub"]);
  if (kind === "fill_begun") return each(["from the bottom", "through the dome or the top"]);
  return null;
}

/** The unit in which a figure of a booking is typed. */
function beside(show: Figures, dimension: string | null | undefined) {
  if (!dimension || dimension === "count") return { factor: 1, offset: 0, symbol: "" };
  if (dimension === "gauge_pressure_pa") return { factor: show.perPa, offset: 0, symbol: show.symbol };
  // a swelling is millimetres, what is pumped litres, a vent runs minutes
  const usual = { length_m: 0.001, volume_m3: 0.05, time_s: 300 }[dimension as string];
  return show.axis(usual ?? 1, dimension as Dimension);
}

interface Props {
  attempt: Attempt;
  open: boolean;
  onClose: () => void;
  /** What is booked; chosen in the dialog where it is none. */
  first?: Kind;
}

/** One dialog for all that is booked by hand: what is offered follows the state of the run. */
export function ByHand({ attempt, open, onClose, first }: Props) {
  const pack = usePack();
  const show = useFigures(pack);
  const { book, problem, busy } = useBook(attempt.id);
  const [value, set, booked] = useKept(`by hand ${first ?? ""} ${attempt.id} in ${show.unit} ${show.symbolOf("temperature_c")}`, "a booking", NOTHING);
  const [wrong, setWrong] = useState<Record<string, string>>({});
  const [readId] = useState(() => newId());
  const offered = byHand().filter((k) => attempt.by_hand.includes(k.kind));
  const kind = first ?? value.kind;
  const asked = byHand().find((k) => k.kind === kind);
  const gauges = [pack.gauge.tag, ...(pack.plan.also ?? []).map((a) => a.tag)];
  const choices = few(kind, gauges);
  const unit = beside(show, asked?.figure);
  const send = async () => {
    const at = instant(value.time);
    const counted = asked?.figure === "count";
    const amount = counted ? typed(value.figure, "count" as Dimension, unit) : typed(value.figure, (asked?.figure ?? "count") as Dimension, unit);
    const found: Record<string, string> = {};
    if (!asked) found.kind = "Choose what is booked.";
    if (asked?.figure && amount.si == null) found.figure = amount.why || `${asked.asks}: give it.`;
    if (asked?.of && !value.of.trim()) found.of = "Say which.";
    if (!at) found.time = howToWrite(value.time);
    setWrong(found);
    if (Object.keys(found).length || !asked || !at) return;
    if (value.reads.trim() && READ_WITH.includes(asked.kind)) {
      const readings = [{ id: readId, at, channel: "pressure" as const, text: value.reads, unit: pack.unit, sure: false }];
      try {
        const { error } = await http.PUT("/api/v1/attempts/{attempt}/readings", { params: { path: { attempt: attempt.id } }, body: { readings } });
        if (error) return setWrong({ reads: sentence(error) });
      } catch (e) {
        return setWrong({ all: sentence(e) });
      }
    }
    const more = { ...(asked.figure ? { figure: amount.si ?? undefined } : {}), ...(asked.of ? { of: value.of.trim() } : {}), note: value.note };
    if (await book(asked.kind, { ...more, ...(value.time.trim() || value.reads.trim() ? { at } : {}) })) {
      booked();
      onClose();
    }
  };
  return (
    <Dialog
      open={open}
      onOpenChange={(o) => !o && onClose()}
      title={first ? (asked?.label ?? "") : "Book by hand"}
      description={asked?.caution ?? "Booked with the time that you give, or now."}
    >
      <form
        className="grid gap-4"
        noValidate
        onSubmit={(e) => {
          e.preventDefault();
          void send();
        }}
      >
        {first ? null : (
          <Field label="What" error={wrong.kind}>
            {(f) => (
              <Select
                {...f}
                value={kind}
                onChange={(e) => {
                  setWrong({});
                  set({ kind: e.target.value as Kind | "", figure: "", of: "", reads: "" });
                }}
                options={[["", "choose what is booked"], ...offered.map((k) => [k.kind, k.label] as const)]}
              />
            )}
          </Field>
        )}
        {asked?.of ? (
          <Field label={asked.of} error={wrong.of}>
            {(f) =>
              choices ? (
                <Select {...f} value={value.of} onChange={(e) => set({ of: e.target.value })} options={[["", "choose"], ...choices]} />
              ) : (
                <TextInput {...f} value={value.of} onChange={(e) => set({ of: e.target.value })} maxLength={60} />
              )
            }
          </Field>
        ) : null}
        {asked?.figure ? <Amount asked={asked} symbol={unit.symbol} value={value.figure} error={wrong.figure} onChange={(figure) => set({ figure })} /> : null}
        {asked && READ_WITH.includes(asked.kind) ? (
          <Field dial label={`${pack.gauge.tag} shows then, ${SYMBOL[pack.unit]}`} hint="Leave empty if it is recorded by itself, or was not read." error={wrong.reads}>
            {(f) => <TextInput {...f} value={value.reads} onChange={(e) => set({ reads: e.target.value })} inputMode="decimal" />}
          </Field>
        ) : null}
        <div className="grid grid-cols-[2fr_1fr] gap-3 max-[500px]:grid-cols-1">
          <Field label="Note" hint="May stay empty.">
            {(f) => <TextInput {...f} value={value.note} onChange={(e) => set({ note: e.target.value })} maxLength={400} />}
          </Field>
          <Field label={`At (${zoneName()})`} hint="Empty is now." error={wrong.time}>
            {(f) => <TextInput {...f} value={value.time} onChange={(e) => set({ time: e.target.value })} placeholder={now().slice(0, 5)} />}
          </Field>
        </div>
        <Problem>{wrong.all || problem}</Problem>
        <div className="flex flex-wrap gap-3">
          <Button type="submit" kind="main" size="large" disabled={busy}>
            Book it
          </Button>
          <Button size="large" onClick={onClose}>
            Leave it
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

function Amount({ asked, symbol, value, error, onChange }: { asked: Asked; symbol: string; value: string; error?: string; onChange: (text: string) => void }) {
  return (
    <Field label={symbol ? `${asked.asks}, ${symbol}` : asked.asks} error={error}>
      {(f) => <TextInput {...f} value={value} onChange={(e) => onChange(e.target.value)} inputMode="decimal" />}
    </Field>
  );
}

/** A button that opens the dialog: for one thing, or for whatever there is. Nothing where it is not offered now. */
export function ByHandButton({ attempt, kind }: { attempt: Attempt; kind?: Kind }) {
  const [open, setOpen] = useState(false);
  const asked = kind ? byHand().find((k) => k.kind === kind) : undefined;
  if (kind ? !attempt.by_hand.includes(kind) : attempt.by_hand.length === 0) return null;
  return (
    <>
      <Button onClick={() => setOpen(true)}>{asked ? `${asked.label}…` : "Book by hand…"}</Button>
      {open ? <ByHand attempt={attempt} open onClose={() => setOpen(false)} first={kind} /> : null}
    </>
  );
}
