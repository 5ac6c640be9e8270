import { type ReactNode, useEffect, useState } from "react";
import { createPortal } from "react-dom";
import { usePack } from "../api/pack";
import { zoneName } from "../api/zone";
import { Says } from "../follows";
import { Button } from "../ui";
import { columnsOf } from "./paper";
import { SYMBOL, useFigures } from "../units";

/** Empty rows on a sheet: one page. */
const ROWS = 22;

/** Prints a sheet for readings with a pencil: where no telephone may be used, or its battery is flat. */
export function ReadingSheet({ label = "Print a blank reading sheet", sheet }: { label?: string; sheet?: ReactNode }) {
  const [asked, setAsked] = useState(false);
  useEffect(() => {
    if (!asked) return;
    const end = () => setAsked(false);
    window.addEventListener("afterprint", end);
    window.print();
    return () => window.removeEventListener("afterprint", end);
  }, [asked]);
  return (
    <>
      <Button onClick={() => setAsked(true)}>{label}</Button>
      {asked ? createPortal(sheet ?? <Sheet />, document.body) : null}
    </>
  );
}

function Sheet() {
  const pack = usePack();
  const show = useFigures(pack);
  const { derived } = pack;
  const degrees = show.symbolOf("temperature_c");
  const { gauges, thermometers } = columnsOf(
    (pack.attempts.at(-1)?.further ?? []).filter((f) => !f.recorded),
    degrees,
  );
  const seen = "what was looked at, what happened";
  const columns = [
    "no.",
    "time",
    `${pack.gauge.tag}, ${SYMBOL[pack.unit]}`,
    ...gauges.map((g) => g.head),
    `temperature, ${degrees}`,
    ...thermometers.map((t) => t.head),
    seen,
    "read by",
  ];
  const day = derived?.day;
  const marks: [string, string][] = derived
    ? [
        ["lower", show.p(derived.lower_readable_pa, "up")],
        ...(day ? [["planned", show.p(day.planned_pa, "up")] as [string, string], ["alarm", show.p(day.alarm_pa, "down")] as [string, string]] : []),
        ["upper", show.p(derived.upper_shown_pa, "down")],
        ["hold at least", show.of(pack.hold_s, "time_s")],
      ]
    : [];
  return (
    <div data-sheet className="text-sm text-ink">
      <h1 className="m-0 text-lg font-bold">
        Reading sheet, <span className="num">{pack.number}</span> {pack.title}
      </h1>
      <p className="my-1">
        Gauge {pack.gauge.tag}, reads to {show.p(pack.gauge.division_pa)}; {marks.map(([name, value]) => `${name} ${value}`).join("; ")}. Times in {zoneName()}.
      </p>
      <p className="my-1">
        <Says line="readings-hold" />
      </p>
      <p className="my-1">Date ____________ Pump off ________ Hold begins ________ Hold ends ________ Sheet ____ of ____</p>
      <table className="w-full border-collapse">
        <thead>
          <tr>
            {columns.map((c) => (
              <th key={c} scope="col" className={`border border-rule px-2 py-1 ${c === seen ? "w-2/5" : ""}`}>
                {c}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {Array.from({ length: ROWS }, (_, i) => i + 1).map((n) => (
            <tr key={n} className="h-8">
              <td className="num border border-rule px-2 text-soft">{n}</td>
              {columns.slice(1).map((c) => (
                <td key={c} className="border border-rule" />
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {pack.looks.length ? (
        <>
          <h2 className="mt-3 mb-1 text-base font-bold">Looked at, under pressure: dry, leaking where, or not seen and why</h2>
          <ul className="m-0 columns-2 gap-6 p-0">
            {pack.looks.map((l) => (
              <li key={l.id} className="flex break-inside-avoid justify-between gap-2 border-b border-rule py-1">
                <span>{l.what}</span>
                <span>______________</span>
              </li>
            ))}
          </ul>
        </>
      ) : null}
      <p className="my-2">
        Write what the gauge shows when it shows it; strike out with one line what was misread. At the alarm: stop the pump. At the upper bound: release the pressure.
        Signed ______________________
      </p>
    </div>
  );
}
