import { memo, useEffect, useState } from "react";
import type { Derived } from "../../api/client";
import { usePack } from "../../api/pack";
import { ElevationPressure } from "../../pictures/elevation-pressure";
import { emptyWindow } from "../../api/window";
import { Follows, Objections } from "../../follows";
import { GasPictures } from "../../pictures/energy";
import { JointFields, PlanFields, SiteFields, usePlanDraft } from "../../planning";
import { Button, Heading, Lead, Note, Page, Problem, Rows, Section, TextInput } from "../../ui";
import { Why } from "../../why";
import { PartsEditor, partsTyped } from "./parts-editor";
import { PartsTable } from "./parts-table";
import { Touched } from "./touched";
import { WhatIf } from "./what-if";
import { typed as parsed, useFigures } from "../../units";

export function Derive() {
  const pack = usePack();
  // whoever left in the midst of it goes on there
  const [editing, setEditing] = useState(() => pack.may.plan && !pack.locked && partsTyped(pack.id));
  const derived = pack.derived;
  if (editing || pack.rows.length === 0) {
    return (
      <Page>
        <Heading>Parts of {pack.title}</Heading>
        <Lead>
          Each part with its height and what it can bear. Paste rows from a spreadsheet, or bring a file (CSV, XLSX, INP); every row is checked before anything is stored.
        </Lead>
        <Section title="Read from">
          <PlanFields show={["gauge"]} />
        </Section>
        <PartsEditor onDone={() => setEditing(false)} />
        {pack.rows.length ? <Objections here="derive" /> : null}
        {pack.rows.length > 1 ? (
          <Section title="How they are joined">
            <JointFields />
          </Section>
        ) : null}
      </Page>
    );
  }
  const edit = pack.may.plan && !pack.locked ? <Button onClick={() => setEditing(true)}>Change the parts</Button> : null;
  if (!derived) {
    return (
      <Page>
        <Heading>No pressure can be derived yet.</Heading>
        <Objections here="derive" />
        <div>{edit}</div>
        <div className="grid items-start gap-6 xl:grid-cols-2">
          <Section title="Read from">
            <PlanFields show={["gauge"]} />
          </Section>
          <Section title="On site">
            <SiteFields />
          </Section>
        </div>
      </Page>
    );
  }
  return <Window derived={derived} edit={edit} />;
}

function Window({ derived, edit }: { derived: Derived; edit: React.ReactNode }) {
  const pack = usePack();
  const show = useFigures(pack);
  const empty = emptyWindow(derived);
  const planned = (empty ? null : derived.day?.planned_pa) ?? derived.lower_readable_pa;
  const [gauge, setGauge] = useState(planned);
  const [typed, setTyped] = useState<string | null>(null);
  const [bad, setBad] = useState("");
  useEffect(() => setGauge(planned), [planned]);
  const missed = derived.parts.filter((p) => gauge < p.gauge_lower_pa - 1 || gauge > p.gauge_upper_pa + 1);
  const lower = show.n(derived.lower_readable_pa, "up");
  const upper = show.p(derived.upper_shown_pa, "down");
  const asks = derived.parts.find((p) => p.tag === derived.lower_part);
  const bears = derived.parts.find((p) => p.tag === derived.upper_part);
  const type = (text: string) => {
    setTyped(text);
    const { si } = parsed(text, "gauge_pressure_pa", { factor: show.perPa, offset: 0 });
    if (si != null && si >= 0) {
      setGauge(si);
      setBad("");
    } else setBad("Type a pressure, for example 26.0, with its unit where that is another.");
  };
  return (
    <Page>
      {empty ? (
        <Heading>{derived.conflict ? "No gauge reading suits every part." : `No reading that ${pack.gauge.tag || "this gauge"} can hold suits every part.`}</Heading>
      ) : (
        <Heading>
          The gauge must read between {lower} and {upper}.
        </Heading>
      )}
      {empty ? (
        <>
          <Note kind="stop">{empty}</Note>
          {derived.proposal ? <Proposal proposal={derived.proposal} /> : null}
        </>
      ) : (
        <Lead>
          {asks
            ? `${derived.lower_part} at ${show.height(asks.elevation_m)}${asks.design_pa != null ? `, whose line is rated ${show.free(asks.design_pa)},` : ""} asks the most`
            : `The basis asks it of the gauge itself, ${derived.lower_part}`}
          ; {derived.upper_part} at {show.height(bears?.elevation_m ?? 0)} bears the least.{" "}
          {(derived.objections ?? []).length ? (
            "Do not raise the pressure until everything below is cleared."
          ) : (
            <>
              {derived.medium === "liquid" ? "Pump" : "Go"} to {show.p(planned, "up")}.
            </>
          )}
        </Lead>
      )}
      {derived.derate_to_pa != null ? <Derate to={derived.derate_to_pa} /> : null}
      <Objections here="derive" except={empty} />
      <div className="grid gap-1">
        <div className="flex flex-wrap items-center justify-between gap-3">
          <span className="text-sm text-soft">
            One {derived.medium === "liquid" ? "water column" : "column of gas"} through every part: drag it, use the arrow keys, or type what the gauge reads.
          </span>
          <span className="flex items-center gap-2 text-sm">
            <label htmlFor="what-if">{pack.gauge.tag} reads</label>
            <span className="w-24">
              <TextInput
                id="what-if"
                inputMode="decimal"
                value={typed ?? show.n(gauge, gauge === planned ? "up" : "nearest")}
                onChange={(e) => type(e.target.value)}
                onBlur={() => setTyped(null)}
                aria-describedby="what-if-says"
              />
            </span>
            {show.symbol}
            {gauge !== planned ? (
              <button type="button" className="border-0 bg-transparent p-0 text-water underline" onClick={() => setGauge(planned)}>
                {empty ? "back to the least" : "back to planned"}
              </button>
            ) : null}
          </span>
        </div>
        <ElevationPressure
          pack={pack}
          derived={derived}
          gaugePa={gauge}
          onGauge={(pa) => {
            setTyped(null);
            setGauge(pa);
          }}
        />
        <p id="what-if-says" role="status" className={`m-0 text-sm font-semibold ${missed.length ? "text-danger" : "text-ink"}`}>
          {bad ||
            (missed.length
              ? `At ${show.p(gauge, gauge === planned ? "up" : "nearest")} the column misses ${missed
                  .slice(0, 6)
                  .map((p) => `${p.tag} (${gauge < p.gauge_lower_pa ? "too little" : "too much"})`)
                  .join(", ")}${missed.length > 6 ? ` and ${missed.length - 6} more` : ""}.`
              : `At ${show.p(gauge, gauge === planned ? "up" : "nearest")} every part is between its marks.`)}
        </p>
      </div>
      {derived.cautions.length ? (
        <ul className="m-0 pl-5 text-sm">
          {derived.cautions.map((c) => (
            <li key={c} className="list-disc">
              {c}
            </li>
          ))}
        </ul>
      ) : null}
      {derived.day && !empty
        ? derived.day.conflicts.map((c) => (
            <Note key={c.about} kind="limit" word="Relief:">
              {c.sentence}
            </Note>
          ))
        : null}
      {derived.gas ? <GasPictures gas={derived.gas} /> : null}
      <Below derived={derived} version={pack.version} />
      <PartsTable derived={derived} gaugePa={gauge} edit={edit} />
    </Page>
  );
}

/** What does not follow the column while it is dragged. */
const Below = memo(function Below({ derived, version }: { derived: Derived; version: number }) {
  return (
    <div className="grid gap-6 xl:grid-cols-[25rem_1fr]">
      <div className="grid content-start gap-6">
        <Day derived={derived} />
        <Section title="Read from">
          <PlanFields show={["gauge"]} />
        </Section>
        <WhatIf key={version} derived={derived} />
        <Section title="On site">
          <SiteFields />
        </Section>
      </div>
      <div className="grid content-start gap-6">
        <Follows steps={["prove", "derive"]} title="Answered before it is asked" />
        <Follows steps={["bound", "ready"]} title="Before it is filled" />
        <Follows steps={["fill", "raise"]} title="Fill and raise" except={["school-water"]} />
        <Follows steps={["hold", "restore"]} title="Hold and after" except={["school-repump", "school-pump_in_hold", "school-record", "school-attended"]} />
        <Touched derived={derived} />
      </div>
    </div>
  );
});

/** Takes the working pressure down to what the worn wall bears; relief, switch and tag follow from it on Prove and Restore. */
function Derate({ to }: { to: number }) {
  const pack = usePack();
  const show = useFigures(pack);
  const draft = usePlanDraft("the derating");
  const basis = draft.draft.basis;
  const field = basis.working_pressure_pa != null ? "working_pressure_pa" : basis.allowable_pressure_pa != null ? "allowable_pressure_pa" : "design_pressure_pa";
  const set = basis[field] === to;
  if (draft.fixed) return null;
  return (
    <div className="flex flex-wrap items-center gap-3" data-derate>
      {set && draft.dirty ? (
        <Button kind="main" onClick={() => void draft.save()}>
          Save {show.free(to, "down")} as its working pressure
        </Button>
      ) : (
        <Button
          kind="main"
          onClick={() => draft.set({ basis: { ...basis, [field]: to, agreed_pressure_pa: null }, derating: draft.draft.derating ?? { valve: "", switch: "", tag: "" } })}
        >
          Derate to {show.free(to, "down")}
        </Button>
      )}
      <span className="text-sm text-soft">
        {set && draft.dirty
          ? "Nothing is stored yet. The test, its relief and its notice follow from it."
          : "The working pressure comes down to what the measured wall bears; relief valve, switch and tag must carry it before it goes back to work."}
      </span>
      <Problem>{draft.problem}</Problem>
    </div>
  );
}

/** What to do when no pressure suits: the split first, then what taking out a part would give. */
function Proposal({ proposal }: { proposal: NonNullable<Derived["proposal"]> }) {
  return (
    <Section title="What would help" aside={proposal.groups.length > 1 ? (proposal.fewest ? "the fewest sub-systems that do" : "fewer sub-systems may do") : undefined}>
      <ol className="m-0 grid list-decimal gap-1 pl-5" data-groups={proposal.groups.length}>
        {proposal.sentences.map((s) => (
          <li key={s}>{s}</li>
        ))}
      </ol>
    </Section>
  );
}

function Day({ derived }: { derived: Derived }) {
  const pack = usePack();
  const show = useFigures(pack);
  const day = emptyWindow(derived) ? null : derived.day;
  const touched = new Set((derived.touched ?? []).flatMap((t) => t.figures));
  const rows: [string, string, string][] = [
    ["asked by the basis", show.free(derived.required_pa, "up"), "required"],
    [day ? "lower bound at the gauge" : "asked at least, at the gauge", show.p(derived.lower_readable_pa, "up"), "lower"],
    [day ? "upper bound at the gauge" : "borne at most, at the gauge", show.p(derived.upper_shown_pa, "down"), "upper"],
  ];
  if (day) {
    rows.push(
      ["planned pressure", show.p(day.planned_pa, "up"), "planned"],
      ["look at joints at", show.p(day.look_pa), "look"],
      ["alarm", show.p(day.alarm_pa, "down"), "alarm"],
      ["stop line", show.p(day.stop_line_pa, "down"), "stop-line"],
    );
    if (day.relief_set_pa != null) rows.push(["relief set", show.p(day.relief_set_pa, "down"), "relief"]);
  }
  if (derived.gauge_offer) rows.push(["gauge, full scale", `${show.named(derived.gauge_offer.least_pa)} to ${show.named(derived.gauge_offer.most_pa)}`, "gauge-range"]);
  rows.push(["hold at least", show.of(derived.hold_floor_s, "time_s"), "hold"]);
  return (
    <Section title={day ? "The day's pressures at the gauge" : "What asks and what bears, at the gauge"}>
      <Rows columns={["figure", "value", "why"]}>
        {rows.map(([name, value, figureName]) => (
          <tr key={name} className="border-b border-hair">
            <td className="py-1.5">
              {name}
              {touched.has(figureName) ? <span className="text-limit"> (project)</span> : null}
            </td>
            <td className="num text-right text-base font-semibold">{value}</td>
            <td className="w-16 text-right">
              <Why figure={figureName} />
            </td>
          </tr>
        ))}
        {day && day.relief_set_pa == null ? (
          <tr className="border-b border-hair">
            <td className="py-1.5">relief set</td>
            <td className="text-right font-semibold text-danger" colSpan={2}>
              none fits
            </td>
          </tr>
        ) : null}
      </Rows>
    </Section>
  );
}
