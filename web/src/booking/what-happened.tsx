import type { Attempt } from "../api/client";
import { usePack } from "../api/pack";
import { byHand, word } from "../api/words";
import { clockOf, dayOf } from "../api/zone";
import { Rows, Section } from "../ui";
import { type Dimension, type Figures, useFigures } from "../units";

type Event = Attempt["events"][number];

/** The figure of an event in the reader's unit; empty where it has none. */
export function figureOf(e: Pick<Event, "kind" | "figure">, show: Figures): string {
  const dimension = byHand().find((k) => k.kind === e.kind)?.figure;
  if (e.figure == null || !dimension) return "";
  if (dimension === "count") return String(e.figure);
  return dimension === "gauge_pressure_pa" ? show.free(e.figure) : show.of(e.figure, dimension as Dimension);
}

/** What was booked, in the order of time. */
export function WhatHappened({ events }: { events: Attempt["events"] }) {
  const show = useFigures(usePack());
  return (
    <Section title="What happened">
      {events.length ? (
        <Rows columns={["time", "what", "who"]}>
          {events.map((e, i) => (
            <tr key={e.id} className="border-b border-hair">
              <td className="num py-1 pr-3">
                {/* the day where it is another than that of the line above */}
                {i > 0 && dayOf(e.at) !== dayOf(events[i - 1]?.at ?? e.at) ? <span className="block text-soft">{dayOf(e.at)}</span> : null}
                {clockOf(e.at)}
              </td>
              <td className={e.kind === "leak_seen" ? "font-semibold text-danger" : ""} data-event={e.kind}>
                {word("event", e.kind)}
                {e.looked ? `, ${e.looked}` : ""}
                {e.place ? `, ${word("leak_place", e.place)}` : ""}
                {e.figure != null ? <strong className="num">, {figureOf(e, show)}</strong> : null}
                {e.of ? (
                  <>
                    , <bdi>{e.of}</bdi>
                  </>
                ) : null}
                {e.note ? (
                  <span className="font-normal text-soft">
                    : <bdi>{e.note}</bdi>
                  </span>
                ) : null}
              </td>
              <td className="text-right text-soft">{e.person}</td>
            </tr>
          ))}
        </Rows>
      ) : (
        <p className="m-0 text-sm text-soft">Nothing is booked yet.</p>
      )}
    </Section>
  );
}
