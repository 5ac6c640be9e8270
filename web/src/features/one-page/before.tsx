import { useState } from "react";
import { sentence } from "../../api/client";
import { usePack, usePackActions } from "../../api/pack";
import { useKept } from "../../api/typing";
import { LineList } from "../../follows";
import { Measured } from "../../planning";
import { Button, Field, LinkButton, Problem, TextInput } from "../../ui";
import { useFigures } from "../../units";
import { Openings } from "./openings";
import { lowers, neverPast, onlyUnsaid, stretched, wordsOf } from "./stage";

/** What follows from the pressure for somebody with a pump on a bench. */
const TOLD: readonly string[] = ["pump", "to-pump", "metal", "chloride"];

/** The test in a few figures, what still stands against it, and what is closed for it. */
export function Before() {
  const pack = usePack();
  const show = useFigures(pack);
  const d = pack.derived;
  const day = d?.day;
  const stretch = stretched(pack);
  const past = neverPast(pack);
  const rows: [string, string][] =
    d && day && past != null
      ? [
          ["Pump to", show.p(day.planned_pa, "up")],
          ...(stretch
            ? ([
                ["Keep it there, pumping up as it stretches, for", show.of(stretch.least_s, "time_s")],
                ["Then lower it to", show.p(day.planned_pa - stretch.lowered_pa, "nearest")],
              ] as [string, string][])
            : lowers(pack)
              ? []
              : ([["Never under, in the hold", show.p(d.lower_readable_pa, "up")]] as [string, string][])),
          ["Never past", show.p(past, "down")],
          ["Hold for", show.of(pack.hold_s, "time_s")],
        ]
      : [];
  const shut = pack.gates.filter((g) => !g.ready);
  return (
    <div className="grid gap-4">
      {rows.length ? (
        <dl className="m-0 grid max-w-xl grid-cols-[1fr_auto]">
          {rows.map(([name, value]) => (
            <div key={name} className="col-span-2 grid grid-cols-subgrid items-baseline border-b border-hair py-1.5">
              <dt>{name}</dt>
              <dd className="num m-0 text-right text-lg font-semibold">{value}</dd>
            </div>
          ))}
        </dl>
      ) : null}
      <LineList
        lines={(d?.lines ?? []).filter(
          // whoever pumps by hand, at the bleed, has no valve to set
          (l) => (TOLD.includes(l.key) && (l.key !== "pump" || l.figures.length > 0)) || (l.key === "relief" && !pack.plan.hand_pump),
        )}
      />
      {pack.may.plan && pack.plan.hand_pump && pack.plan.site?.stroke_m3 == null ? <Stroke /> : null}
      <Openings />
      {shut.length ? (
        <div className="grid gap-3" data-open={shut.length}>
          <h3 className="m-0 text-base font-semibold text-limit">
            {onlyUnsaid(pack) ? "One thing to say" : shut.length === 1 ? "One thing stops it" : `${shut.length} things stop it`}
          </h3>
          {shut.map((g) => (
            <div key={g.rule + g.sentence} className="grid gap-2 border-l-2 border-limit pl-3" data-gate={g.rule}>
              <p className="m-0 max-w-[80ch]">{g.sentence}</p>
              <Cure rule={g.rule} step={g.step} />
            </div>
          ))}
        </div>
      ) : (
        <ul className="m-0 grid max-w-[80ch] list-none gap-1 p-0 text-sm">
          {pack.gates
            .filter((g) => ["GATE-INSTRUMENT-DATE", "GATE-RELIEF"].includes(g.rule))
            .map((g) => (
              <li key={g.rule}>{g.sentence}</li>
            ))}
        </ul>
      )}
    </div>
  );
}

/** One stroke of the pump, where nobody has said it: what it does to the pressure is told then. */
function Stroke() {
  const pack = usePack();
  const actions = usePackActions();
  const [problem, setProblem] = useState("");
  const [stroke, setStroke] = useState<number | null>(null);
  return (
    <form
      className="flex flex-wrap items-end gap-3"
      noValidate
      onSubmit={async (e) => {
        e.preventDefault();
        setProblem("");
        try {
          await actions.plan({ ...pack.plan, site: { ...pack.plan.site, stroke_m3: stroke } }, pack.title, pack.version);
        } catch (e) {
          setProblem(sentence(e));
        }
      }}
    >
      <Measured label="One stroke of the pump" dimension="volume_m3" size="small" value={stroke} error={problem || undefined} onChange={setStroke} />
      <Button type="submit" disabled={stroke == null || stroke <= 0}>
        Write it down
      </Button>
    </form>
  );
}

/** What takes away a thing that stops it, where it stands. */
function Cure({ rule, step }: { rule: string; step: string }) {
  const pack = usePack();
  const show = useFigures(pack);
  const actions = usePackActions();
  const [problem, setProblem] = useState("");
  const [{ look }, set, saved] = useKept(`inside ${pack.id}`, "the look inside", { look: "" });
  const change = async (more: object) => {
    setProblem("");
    try {
      await actions.plan({ ...pack.plan, ...more }, pack.title, pack.version);
      saved();
    } catch (e) {
      setProblem(sentence(e));
    }
  };
  if (!pack.may.plan) return null;
  if (rule === "GATE-RELIEF" && pack.plan.basis.medium === "liquid")
    return (
      <div className="grid gap-2">
        {wordsOf(pack, show).map(([words, said]) => (
          <label key={words} className="flex min-h-11 cursor-pointer items-center gap-3">
            <input type="checkbox" className="size-5 accent-water" checked={false} onChange={() => void change(said)} />
            <span>{words}</span>
          </label>
        ))}
        <Problem>{problem}</Problem>
      </div>
    );
  if (rule === "GATE-HISTORY")
    return (
      <form
        className="flex flex-wrap items-end gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          void change({ inside_look: look });
        }}
      >
        <Field label="Who looked inside, and what was found" error={problem || undefined}>
          {(f) => <TextInput {...f} value={look} onChange={(e) => set({ look: e.target.value })} placeholder="the fitter, light rust, no pits" />}
        </Field>
        <Button type="submit" disabled={!look.trim()}>
          Write it down
        </Button>
      </form>
    );
  // what is closed for the test stands above
  if (rule === "GATE-BOUNDARY") return null;
  return (
    <div>
      <LinkButton to={`/tests/${pack.id}/${step}`}>Mend it there</LinkButton>
    </div>
  );
}
