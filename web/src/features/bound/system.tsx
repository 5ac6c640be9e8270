import { useState } from "react";
import { api, type Schema } from "../../api/client";
import { usePack } from "../../api/pack";
import { term } from "../../api/words";
import { type ShownPhase, SystemSketch } from "../../pictures/system-sketch";
import { Button, Problem, Rows, Section, Skeleton, Wide } from "../../ui";
import { useFigures } from "../../units";
import { LineUp } from "./line-up";
import { Suggested } from "./suggested";

export type SystemLook = Schema["SystemLook"];

const PHASE: Record<ShownPhase, string> = { fill: "Filling", test: "Under pressure", drain: "Draining" };

/** The system as it is joined; asked for once parts are listed. */
export function useLook() {
  const pack = usePack();
  return api.useQuery("get", "/api/v1/packs/{id}/joined", { params: { path: { id: pack.id } } }, { enabled: pack.form === "pack" && pack.rows.length > 0 });
}

/** The system as it is joined, or what to do while no parts are listed. */
export function TestSystem() {
  const pack = usePack();
  const { data, error, isPending } = useLook();
  if (pack.rows.length === 0) return <p className="m-0 text-soft">No parts are listed yet: list them on Derive, and the system is drawn here.</p>;
  if (error) return <Problem>{error.detail ?? "The system could not be looked at."}</Problem>;
  if (isPending || !data) return <Skeleton />;
  return <Looked look={data} />;
}

function Looked({ look }: { look: SystemLook }) {
  const pack = usePack();
  const [phase, setPhase] = useState<ShownPhase>("test");
  const [at, setAt] = useState({ fill: look.filling.length - 1, drain: 0 });
  const [zoom, setZoom] = useState(1);
  const [picked, setPicked] = useState("");
  const moments = phase === "fill" ? look.filling : phase === "drain" ? look.draining : [];
  const moment = Math.min(phase === "test" ? 0 : at[phase], Math.max(0, moments.length - 1));
  return (
    <>
      <Section title="The system" aside={`${look.parts.length} parts`}>
        <div className="flex flex-wrap items-center gap-2 print:hidden">
          {(Object.keys(PHASE) as ShownPhase[])
            .filter((p) => p === "test" || (p === "fill" ? look.filling : look.draining).length > 0)
            .map((p) => (
              <Button key={p} aria-pressed={p === phase} kind={p === phase ? "main" : "plain"} onClick={() => setPhase(p)}>
                {PHASE[p]}
              </Button>
            ))}
          <span className="ml-auto inline-flex gap-2">
            <Button onClick={() => setZoom((z) => Math.max(1, z / 1.5))} disabled={zoom <= 1} aria-label="Draw it shorter">
              −
            </Button>
            <Button onClick={() => setZoom((z) => Math.min(8, z * 1.5))} disabled={zoom >= 8} aria-label="Draw it longer">
              +
            </Button>
          </span>
        </div>
        {phase === "test" ? null : <Slider look={look} phase={phase} moment={moment} onMoment={(n) => setAt({ ...at, [phase]: n })} />}
        <SystemSketch pack={pack} look={look} phase={phase} moment={moment} zoom={zoom} picked={picked} onPick={setPicked} />
        <Picked look={look} tag={picked} />
        {phase === "fill" ? <Fills look={look} onPick={setPicked} /> : null}
        {phase === "drain" ? <Drains look={look} /> : null}
        <AsTable look={look} />
      </Section>
      <Findings look={look} onPick={setPicked} />
      <LineUp look={look} />
      <Suggested />
      {look.sections.length > 1 ? (
        <Section title="Sections that valves can cut off" aside={`${look.sections.length}`}>
          <p className="m-0 text-sm text-soft">After the test each is shown to be at zero by itself: a valve that is shut keeps what lies behind it under pressure.</p>
          <ul className="m-0 grid list-none gap-1 p-0">
            {look.sections.map((s) => (
              <li key={s.parts.join()}>{s.asks}</li>
            ))}
          </ul>
        </Section>
      ) : null}
    </>
  );
}

function clock(seconds: number) {
  const minutes = Math.round(seconds / 60);
  return minutes < 90 ? `${minutes} min` : `${Math.floor(minutes / 60)} h ${minutes % 60} min`;
}

/** Moves the water. */
function Slider({ look, phase, moment, onMoment }: { look: SystemLook; phase: "fill" | "drain"; moment: number; onMoment: (n: number) => void }) {
  const show = useFigures(usePack());
  const all = phase === "fill" ? look.filling : look.draining;
  const now = all[moment];
  if (!now) return null;
  const after = now.time_s == null ? "" : `, after ${clock(now.time_s)}`;
  const words = `${show.of(now.volume_m3, "volume_m3")} ${phase === "fill" ? "in" : "out"}${after}; water at ${show.height(Number(now.level_m.toFixed(2)))}`;
  return (
    <label className="flex flex-wrap items-center gap-3 text-sm print:hidden">
      <span className="font-semibold">{phase === "fill" ? "Let the water in" : "Let the water out"}</span>
      <input
        type="range"
        className="min-w-40 flex-1 accent-water"
        min={0}
        max={all.length - 1}
        value={moment}
        onChange={(e) => onMoment(Number(e.target.value))}
        aria-valuetext={words}
        aria-label={phase === "fill" ? "Let the water in" : "Let the water out"}
      />
      <output className="num min-w-72">{words}</output>
    </label>
  );
}

/** What the picked part is, where it is, and what is found at it. */
function Picked({ look, tag }: { look: SystemLook; tag: string }) {
  const show = useFigures(usePack());
  const part = look.parts.find((p) => p.tag === tag);
  const at = part ? [look.points[part.from], look.points[part.to]] : [];
  const found = look.findings.map((f, i) => ({ ...f, number: i + 1 })).filter((f) => part && (f.part === tag || f.points.some((p) => p === part.from || p === part.to)));
  const heights = part?.from === part?.to ? show.height(at[0]?.height_m ?? 0) : `${show.height(at[0]?.height_m ?? 0)} to ${show.height(at[1]?.height_m ?? 0)}`;
  return (
    <p className="m-0 min-h-12 text-sm" aria-live="polite">
      {part ? (
        <>
          <b>{part.tag}</b>, {part.what}, {heights}
          {part.position ? `; stands ${part.position}` : ""}
          {part.beyond ? "; beyond the test" : part.pressed ? "; sees the pressure" : "; does not see the pressure"}
          {part.needs_pa != null && part.bears_pa != null ? `; needs ${show.free(part.needs_pa, "up")}, bears ${show.free(part.bears_pa, "down")}` : ""}.{" "}
          {found.map((f) => (
            <span key={f.number} className="text-limit">
              {f.number}: {f.sentence}{" "}
            </span>
          ))}
        </>
      ) : (
        <span className="text-soft">Pick a part to see what it is. Within the sketch the arrow keys walk along the line.</span>
      )}
    </p>
  );
}

/** What each vent shows, in the order in which it does, and the air that stays. */
function Fills({ look, onPick }: { look: SystemLook; onPick: (tag: string) => void }) {
  return (
    <div className="grid gap-1">
      <ul className="m-0 grid list-none gap-1 p-0">
        {look.vents.map((v) => (
          <li key={v.tag}>
            <button type="button" className="border-0 bg-transparent p-0 font-semibold text-water underline" onClick={() => onPick(v.tag)}>
              {v.tag}
            </button>
            {v.sentence.slice(v.tag.length)}
            {v.time_s == null ? "" : ` About ${clock(v.time_s)} from the start.`}
          </li>
        ))}
      </ul>
      <p className="m-0 font-semibold">
        {look.vents.length === 0
          ? "No vent is listed, so nothing is said of the air."
          : look.pockets.length
            ? `Air stays in ${look.pockets.length === 1 ? "one place" : `${look.pockets.length} places`}.`
            : look.points.some((p) => p.unmeasured)
              ? "No air stays where the heights are known; where they are missing, nobody can say."
              : "Every pocket vents: no air stays."}
      </p>
      <ul className="m-0 grid list-none gap-1 p-0">
        {look.pockets.map((p) => (
          <li key={p.place} className="text-limit">
            {p.place}: {p.cure}
          </li>
        ))}
      </ul>
    </div>
  );
}

/** How it drains, and the water that stays. */
function Drains({ look }: { look: SystemLook }) {
  const show = useFigures(usePack());
  const time = look.drain_s == null ? "enter the bore of the drain on Derive, and the time follows" : `about ${clock(look.drain_s)} with the vents open`;
  return (
    <div className="grid gap-1">
      <p className="m-0">
        {look.drain_order} {look.stretches.length ? `It takes ${time}.`.replace("It takes enter", "Enter") : ""}
      </p>
      {look.collapses.length ? (
        <p className="m-0 text-danger">
          Never with the vents shut: {look.collapses.map((c) => c.part).join(", ")} {look.collapses.length === 1 ? "would" : "could"} be crushed by the vacuum.
        </p>
      ) : null}
      <p className="m-0 font-semibold">
        {look.left.length
          ? `${show.of(
              look.left.reduce((sum, l) => sum + l.volume_m3, 0),
              "volume_m3",
            )} of water stays.`
          : look.stretches.length
            ? "Every low place drains: no water stays."
            : ""}
      </p>
      <ul className="m-0 grid list-none gap-1 p-0">
        {look.left.map((l) => (
          <li key={l.place} className="text-limit">
            {l.place}: {show.of(l.volume_m3, "volume_m3")}
            {l.held_by_vacuum ? ", held up by a vacuum" : ""}. {l.cure}
          </li>
        ))}
      </ul>
    </div>
  );
}

/** The picture as a table. */
function AsTable({ look }: { look: SystemLook }) {
  const show = useFigures(usePack());
  const [open, setOpen] = useState(false);
  const shown = look.parts.slice(0, 1000);
  if (!open) {
    return (
      <div className="print:hidden">
        <Button onClick={() => setOpen(true)}>The sketch as a table</Button>
      </div>
    );
  }
  return (
    <Wide label="The sketch as a table">
      <Rows columns={["part", "what", "from", "height", "to", "height", "stands", "pressure"]}>
        {shown.map((p) => (
          <tr key={p.tag} className="border-b border-hair">
            <td className="py-1 pr-3 font-semibold">{p.tag}</td>
            <td className="pr-3">{p.what}</td>
            <td className="pr-3">{look.points[p.from]?.place}</td>
            <td className="num pr-3">{show.height(look.points[p.from]?.height_m ?? 0)}</td>
            <td className="pr-3">{p.from === p.to ? "" : look.points[p.to]?.place}</td>
            <td className="num pr-3">{p.from === p.to ? "" : show.height(look.points[p.to]?.height_m ?? 0)}</td>
            <td className="pr-3">{p.position}</td>
            <td>{p.beyond ? "beyond the test" : p.pressed ? "sees it" : "does not see it"}</td>
          </tr>
        ))}
      </Rows>
      {look.parts.length > shown.length ? <p className="m-0 text-sm">And {look.parts.length - shown.length} more: they are on Derive.</p> : null}
    </Wide>
  );
}

/** What is open at the boundary, each with its number in the sketch. */
function Findings({ look, onPick }: { look: SystemLook; onPick: (tag: string) => void }) {
  const [all, setAll] = useState(false);
  const shown = all ? look.findings : look.findings.slice(0, 12);
  const pick = (f: SystemLook["findings"][number]) => onPick(f.part || (look.parts.find((p) => f.points.includes(p.from) || f.points.includes(p.to))?.tag ?? ""));
  return (
    <Section title="Open at the boundary" aside={look.findings.length ? `${look.findings.length}` : "nothing"}>
      {look.findings.length === 0 ? <p className="m-0">Nothing is open: every end is closed, and everything that is listed stands as it should.</p> : null}
      <ol className="m-0 grid list-none gap-2 p-0">
        {shown.map((f, i) => (
          <li key={`${f.rule} ${f.sentence}`} className="grid grid-cols-[2.2rem_1fr] gap-2 border-b border-hair pb-2">
            <span className="num text-right font-bold text-limit">{i + 1}</span>
            <span>
              {f.points.length ? (
                <button type="button" className="border-0 bg-transparent p-0 text-left font-semibold underline decoration-limit" onClick={() => pick(f)}>
                  {f.sentence}
                </button>
              ) : (
                <span className="font-semibold">{f.sentence}</span>
              )}{" "}
              {f.cure}{" "}
              <span className="text-sm text-soft">
                {f.clause ? `${f.clause}, ` : ""}
                {term("standing", f.standing).words}
              </span>
            </span>
          </li>
        ))}
      </ol>
      {look.findings.length > shown.length ? <Button onClick={() => setAll(true)}>Show all {look.findings.length}</Button> : null}
    </Section>
  );
}
