import { useState } from "react";
import type { Schema } from "../api/client";
import { Button, Dialog, Field, Note, Problem, Select, TextInput } from "../ui";
import { useBook } from "./book";
import { howToWrite, instant, now } from "./clock";
import { useKept } from "../api/typing";
import { offeredOrNone } from "../api/words";
import { zoneName } from "../api/zone";
import { typed, useFigures } from "../units";

type Kind = Schema["EventKind"];

interface Props {
  attempt: string;
  events: readonly { kind: Kind; label: string; main?: boolean; asks?: string; measured?: boolean }[];
  size?: "normal" | "large";
  /** False where the moment of the tap is always meant. */
  timed?: boolean;
}

/** One-tap events. What ends something asks first. */
export function EventButtons({ attempt, events, size, timed = true }: Props) {
  const { book, problem, busy } = useBook(attempt);
  const [asking, setAsking] = useState<{ kind: Kind; asks: string; label: string; measured?: boolean } | null>(null);
  const [volume, setVolume] = useState("");
  const [time, setTime] = useState("");
  const [unread, setUnread] = useState("");
  const bookAt = async (kind: Kind, volume_m3?: number) => {
    const at = instant(time);
    setUnread(at ? "" : howToWrite(time));
    if (at && (await book(kind, { ...(time.trim() ? { at } : {}), ...(volume_m3 ? { volume_m3 } : {}) }))) setTime("");
  };
  const show = useFigures();
  // what is pumped in or drawn is litres, not cubic metres
  const beside = show.axis(0.05, "volume_m3");
  const { si: measured, why } = typed(volume, "volume_m3", beside);
  const unmeasured = why || (measured != null && !(measured > 0) ? "A volume is a figure above zero." : "");
  return (
    <div className="grid gap-2">
      <div className="flex flex-wrap items-end gap-3">
        {events.map((e) => (
          <Button
            key={e.kind}
            kind={e.main ? "main" : "plain"}
            size={size}
            disabled={busy}
            onClick={() => (e.asks ? setAsking({ kind: e.kind, asks: e.asks, label: e.label, measured: e.measured }) : void bookAt(e.kind))}
          >
            {e.label}
          </Button>
        ))}
        <span className={timed ? "w-36" : "hidden"}>
          <Field label={`At (${zoneName()})`}>
            {(f) => <TextInput {...f} value={time} onChange={(e) => setTime(e.target.value)} placeholder={`now, ${now().slice(0, 5)}`} />}
          </Field>
        </span>
      </div>
      {problem || unread ? (
        <Note kind="stop" live>
          {unread || problem}
        </Note>
      ) : null}
      {asking ? (
        <Dialog open onOpenChange={(o) => !o && setAsking(null)} title={asking.asks}>
          {asking.measured ? (
            <div className="mb-4">
              <Field label={`Volume measured, ${beside.symbol}`} hint="Leave empty if nobody measured it." error={unmeasured || undefined}>
                {(f) => <TextInput {...f} value={volume} onChange={(e) => setVolume(e.target.value)} inputMode="decimal" />}
              </Field>
            </div>
          ) : null}
          <div className="flex gap-3">
            <Button
              kind="main"
              disabled={unmeasured !== ""}
              onClick={async () => {
                setAsking(null);
                setVolume("");
                await bookAt(asking.kind, asking.measured ? (measured ?? undefined) : undefined);
              }}
            >
              {asking.label}
            </Button>
            <Button onClick={() => setAsking(null)}>Not yet</Button>
          </div>
        </Dialog>
      ) : null}
    </div>
  );
}

const NO_LEAK = { place: "" as Schema["LeakPlace"] | "", note: "", time: "" };

/** A leak with the class of its place: the rule, not a mood, says which claim it fails. */
export function LeakDialog({ attempt, open, onClose }: { attempt: string; open: boolean; onClose: () => void }) {
  const { book, problem, busy } = useBook(attempt);
  const [leak, setLeak, booked] = useKept(`leak ${attempt}`, "a leak that was seen", NO_LEAK);
  const { place, note, time } = leak;
  const [unread, setUnread] = useState("");
  const [nowhere, setNowhere] = useState("");
  return (
    <Dialog
      open={open}
      onOpenChange={(o) => !o && onClose()}
      title="Note a leak"
      description="Nothing is tightened under pressure. Map all the others while it is safe, so that the repair is one repair."
    >
      <form
        className="grid gap-4"
        onSubmit={async (e) => {
          e.preventDefault();
          const at = instant(time);
          setUnread(at ? "" : howToWrite(time));
          setNowhere(place ? "" : "Say where it leaks: the class of the place decides what it means for the test.");
          if (at && place && (await book("leak_seen", { place, note, ...(time.trim() ? { at } : {}) }))) {
            booked();
            onClose();
          }
        }}
      >
        <Field label="Where" error={nowhere || undefined}>
          {(f) => (
            <Select
              {...f}
              options={offeredOrNone("leak_place", "choose the place")}
              value={place}
              onChange={(e) => setLeak({ place: e.target.value as Schema["LeakPlace"] })}
            />
          )}
        </Field>
        <Field label="What was seen">
          {(f) => <TextInput {...f} value={note} onChange={(e) => setLeak({ note: e.target.value })} placeholder="flange F-12 weeps at the bottom" />}
        </Field>
        <Field label={`Seen at (${zoneName()})`} hint="Leave empty for the time now." error={unread || undefined}>
          {(f) => <TextInput {...f} value={time} onChange={(e) => setLeak({ time: e.target.value })} placeholder={now().slice(0, 5)} />}
        </Field>
        <Problem>{problem}</Problem>
        <div className="flex gap-3">
          <Button type="submit" kind="main" disabled={busy}>
            Book it
          </Button>
          <Button onClick={onClose}>Leave it</Button>
        </div>
      </form>
    </Dialog>
  );
}
