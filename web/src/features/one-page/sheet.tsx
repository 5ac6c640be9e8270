import { useState } from "react";
import { http, newId, type Schema, sentence } from "../../api/client";
import { type Act, perform } from "../../api/outbox";
import { usePack, usePackActions } from "../../api/pack";
import { useKept } from "../../api/typing";
import { zoneName } from "../../api/zone";
import { Says } from "../../follows";
import { inUnits, readTime } from "../../booking";
import { Button, Dialog, Problem, TextInput } from "../../ui";
import { SYMBOL, useFigures } from "../../units";
import { type Filled, objectionsTo, rowsOf, type SheetRow } from "./sheet-rows";
import { lowers, neverPast, stretched } from "./stage";

/** A blank sheet for the shed: every step with its pressure, what a stroke brings, room for times and what the gauge showed. */
export function ShedSheet() {
  const pack = usePack();
  const show = useFigures(pack);
  const d = pack.derived;
  const day = d?.day;
  const stretch = stretched(pack);
  const warm = pack.plan.thermometer_tag ? `${pack.plan.thermometer_tag}, ${show.symbolOf("temperature_c")}` : "";
  return (
    <div data-sheet className="text-sm text-ink">
      <h1 className="m-0 text-lg font-bold">
        Sheet for the shed, <span className="num">{pack.number}</span> {pack.title}
      </h1>
      {d && day ? (
        <p className="my-1">
          Pump to {show.p(day.planned_pa, "up")}.{" "}
          {stretch
            ? `Keep it there, pumping up as it stretches, for ${show.of(stretch.least_s, "time_s")}; then lower it to ${show.p(day.planned_pa - stretch.lowered_pa, "nearest")}.`
            : lowers(pack)
              ? ""
              : `In the hold never under ${show.p(d.lower_readable_pa, "up")}.`}{" "}
          Never past {show.p(neverPast(pack) ?? day.stop_line_pa, "down")}. Hold for {show.of(pack.hold_s, "time_s")}. Times in {zoneName()}.
        </p>
      ) : null}
      <p className="my-1">
        {d?.lines?.some((l) => l.key === "pump" && l.figures.length > 0) ? <Says line="pump" /> : "A stroke of the pump brings ____________."} <Says line="to-pump" />
      </p>
      <p className="my-1">Date ____________________ Who tests ______________________________</p>
      <table className="w-full border-collapse">
        <thead>
          <tr>
            {["done", "what", "time", `${pack.gauge.tag}, ${SYMBOL[pack.unit]}`, ...(warm ? [warm] : []), "what was seen"].map((c) => (
              <th key={c} scope="col" className={`border border-rule px-2 py-1 ${c === "what was seen" ? "w-2/5" : ""}`}>
                {c}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rowsOf(pack, show).map((r) => (
            <tr key={r.key} className="h-8">
              <td className="border border-rule px-2 text-center">☐</td>
              <td className="border border-rule px-2">{r.words}</td>
              <td className="border border-rule" />
              <td className={`border border-rule ${r.reads ? "" : "bg-wash"}`} />
              {warm ? <td className={`border border-rule ${r.reads ? "" : "bg-wash"}`} /> : null}
              <td className="border border-rule" />
            </tr>
          ))}
        </tbody>
      </table>
      {[
        ["Closed for the test: in, and out again", pack.boundary.map((b) => b.tag)] as const,
        ["Looked at under pressure: dry, leaking where, or not seen and why", pack.looks.map((l) => l.what)] as const,
      ].map(([head, lines]) =>
        lines.length ? (
          <div key={head}>
            <h2 className="mt-3 mb-1 text-base font-bold">{head}</h2>
            <ul className="m-0 columns-2 gap-6 p-0">
              {lines.map((l) => (
                <li key={l} className="flex break-inside-avoid justify-between gap-2 border-b border-rule py-1">
                  <span>{l}</span>
                  <span>☐ ☐ ____________</span>
                </li>
              ))}
            </ul>
          </div>
        ) : null,
      )}
      <p className="my-2">
        Write what the gauge shows when it shows it; strike out with one line what was misread. It leaks, or the needle will not stand: stop the pump, let it out by the
        bleed, and write down where. Signed ______________________
      </p>
    </div>
  );
}

const NOTHING = { rows: {} as Record<string, Filled> };

/** A sheet that was filled in the shed, typed in as one grid. */
export function FilledSheet() {
  const pack = usePack();
  const [open, setOpen] = useState(false);
  if (!pack.may.book || !pack.schedule.length) return null;
  return (
    <>
      <Button onClick={() => setOpen(true)}>Type in a filled sheet…</Button>
      {open ? <Grid onClose={() => setOpen(false)} /> : null}
    </>
  );
}

function Grid({ onClose }: { onClose: () => void }) {
  const pack = usePack();
  const show = useFigures(pack);
  const { refresh } = usePackActions();
  const attempt = pack.attempts.at(-1);
  const running = attempt && !attempt.over && !attempt.withdrawn ? attempt : undefined;
  const degrees = show.symbolOf("temperature_c");
  const thermometer = pack.plan.thermometer_tag ?? "";
  const all = rowsOf(pack, show);
  const booked = running?.events.map((e) => e.kind) ?? [];
  const steps = booked.filter((k) => k === "step_reached").length;
  // what is booked already is not typed again
  const rows = all.filter((r) => {
    if (r.kind === "begun") return !running;
    if (r.kind === "step_reached") return Number(r.key.split(" ")[1]) > steps;
    return !r.kind || !booked.includes(r.kind);
  });
  const [{ rows: filled }, set, done] = useKept(`sheet ${pack.id}`, "a filled sheet", NOTHING);
  const [ids] = useState(() => new Map<string, string>());
  const [wrong, setWrong] = useState<Map<string, string>>(new Map());
  const [problem, setProblem] = useState("");
  const [busy, setBusy] = useState(false);
  const of = (key: string): Filled => filled[key] ?? { time: "", shows: "" };
  const change = (key: string, more: Partial<Filled>) => set({ rows: { ...filled, [key]: { ...of(key), ...more } } });
  // sent again unchanged it is stored once
  const idOf = (what: string) => {
    const there = ids.get(what) ?? newId();
    ids.set(what, there);
    return there;
  };
  const acts = (row: SheetRow, run: string): Act[] => {
    const { time, shows, warm = "" } = of(row.key);
    // an empty line is one that was not filled, not one of now
    const at = time.trim() ? readTime(time).at : null;
    if (!at) return [];
    const name = `${row.key} ${at} ${shows} ${warm}`;
    const list: Act[] = [];
    const read = [
      { channel: "pressure" as const, text: shows.trim() },
      { channel: "temperature" as const, text: inUnits(warm.trim(), degrees) },
    ]
      .filter((r) => r.text)
      .map((r) => ({ ...r, id: idOf(`${name} ${r.channel}`), at, of: "", unit: pack.unit, sure: true }));
    if (read.length)
      list.push({
        id: idOf(`${name} read`),
        attempt: run,
        at,
        words: `${pack.gauge.tag} shows ${shows} ${SYMBOL[pack.unit]}`,
        does: { is: "readings", body: { readings: read } },
      });
    const act = { id: idOf(name), attempt: run, at, words: row.words };
    if (row.kind === "look_done" && pack.looks.length) list.push({ ...act, does: { is: "looks", body: { at, except: [], note: "", only: null } } });
    else if (row.kind && row.kind !== "begun") list.push({ ...act, does: { is: "event", body: { kind: row.kind as Schema["EventKind"], at, note: "" } } });
    return list;
  };
  const send = async () => {
    setProblem("");
    const against = objectionsTo(rows, filled, readTime);
    if (!running && !of("begun").time.trim()) against.set("begun", "Write when it was begun.");
    setWrong(against);
    if (against.size) return;
    setBusy(true);
    try {
      let run = running?.id;
      if (!run) {
        run = idOf("attempt");
        const { error } = await http.PUT("/api/v1/packs/{id}/attempts/{attempt}", {
          params: { path: { id: pack.id, attempt: run } },
          body: { supersedes_reason: "", released_at: readTime(of("begun").time).at },
        });
        if (error) return setWrong(new Map([["begun", sentence(error)]]));
      }
      for (const row of rows) {
        const { why } = await perform(acts(row, run));
        if (why) return setWrong(new Map([[row.key, why]]));
      }
      done();
      onClose();
    } catch (e) {
      setProblem(sentence(e));
    } finally {
      setBusy(false);
      await refresh();
    }
  };
  return (
    <Dialog
      open
      wide
      onOpenChange={(o) => !o && onClose()}
      title="A sheet that was filled in the shed"
      description={`As it stands on the paper; lines that were not filled stay empty. Times in ${zoneName()}.`}
    >
      <form
        className="grid gap-3"
        noValidate
        onSubmit={(e) => {
          e.preventDefault();
          void send();
        }}
      >
        <table className="w-full border-collapse text-sm">
          <thead>
            <tr className="border-b border-rule text-soft max-[600px]:grid max-[600px]:grid-cols-3">
              <th scope="col" className="max-[600px]:sr-only">
                what
              </th>
              <th scope="col">time</th>
              <th scope="col">
                {pack.gauge.tag}, {SYMBOL[pack.unit]}
              </th>
              {thermometer ? (
                <th scope="col">
                  {thermometer}, {degrees}
                </th>
              ) : null}
            </tr>
          </thead>
          <tbody>
            {rows.map((r) => (
              <tr
                key={r.key}
                className="border-b border-hair align-top max-[600px]:grid max-[600px]:grid-cols-3 max-[600px]:items-center max-[600px]:py-1"
                data-row={r.key}
              >
                <td className="py-1 pr-2 max-[600px]:col-span-3">
                  {r.words}
                  {wrong.get(r.key) ? (
                    <span role="alert" className="block font-semibold text-danger">
                      {wrong.get(r.key)}
                    </span>
                  ) : null}
                </td>
                <td className="w-32 py-1 pr-2 max-[600px]:w-auto">
                  <TextInput aria-label={`Time: ${r.words}`} value={of(r.key).time} onChange={(e) => change(r.key, { time: e.target.value })} placeholder="09:12" />
                </td>
                <td className="w-28 py-1 max-[600px]:w-auto">
                  {r.reads ? (
                    <TextInput
                      aria-label={`${pack.gauge.tag}: ${r.words}`}
                      data-dial
                      value={of(r.key).shows}
                      onChange={(e) => change(r.key, { shows: e.target.value })}
                      inputMode="decimal"
                    />
                  ) : null}
                </td>
                {thermometer ? (
                  <td className="w-24 py-1 pl-2 max-[600px]:w-auto">
                    {r.reads ? (
                      <TextInput
                        aria-label={`${thermometer}: ${r.words}`}
                        value={of(r.key).warm ?? ""}
                        onChange={(e) => change(r.key, { warm: e.target.value })}
                        inputMode="decimal"
                      />
                    ) : null}
                  </td>
                ) : null}
              </tr>
            ))}
          </tbody>
        </table>
        <p className="m-0 text-sm text-soft">"All dry" stands for every place on the list. Where one leaked leave that line empty, and book it on the page.</p>
        <Problem>{problem}</Problem>
        <div className="flex gap-3">
          <Button type="submit" kind="main" disabled={busy}>
            Book the whole sheet
          </Button>
          <Button onClick={onClose}>Leave it</Button>
        </div>
      </form>
    </Dialog>
  );
}
