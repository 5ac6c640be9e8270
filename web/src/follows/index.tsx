import { Fragment } from "react";
import type { Schema } from "../api/client";
import { usePack } from "../api/pack";
import { Section } from "../ui";
import { Why } from "../why";
import { useFigures } from "../units";

export { Objections } from "./objections";

type Line = Schema["Line"];

/** The sentence of a line with its figures in the reader's unit; each figure stands out. */
function Sentence({ line }: { line: Line }) {
  const pack = usePack();
  const show = useFigures(pack);
  const pieces = line.says.split(/\{(\d+)\}/);
  return (
    <>
      {pieces.map((piece, i) => {
        const f = i % 2 === 1 ? line.figures[Number(piece)] : undefined;
        return f ? (
          // biome-ignore lint/suspicious/noArrayIndexKey: the pieces of one sentence never move
          <b key={i} className="num font-semibold">
            {show.said(f.amount, f.toward)}
          </b>
        ) : (
          // biome-ignore lint/suspicious/noArrayIndexKey: the pieces of one sentence never move
          <Fragment key={i}>{piece}</Fragment>
        );
      })}
    </>
  );
}

/** What one line says, by itself: for a sheet of paper. */
export function Says({ line: key }: { line: string }) {
  const line = usePack().derived?.lines?.find((l) => l.key === key);
  return line ? <Sentence line={line} /> : null;
}

/** Lines one under the other: the question, the answer, what is wrong with it, and why. */
export function LineList({ lines }: { lines: readonly Line[] }) {
  return (
    <dl className="@container m-0 text-sm">
      {lines.map((l) => (
        <div key={l.key} data-line={l.key} className="grid grid-cols-[1fr_2.5rem] gap-x-3 border-b border-hair py-1.5 @min-[38rem]:grid-cols-[11rem_1fr_2.5rem]">
          <dt className="col-span-2 text-soft @min-[38rem]:col-span-1">{l.question}</dt>
          <dd className="m-0 min-w-0">
            <Sentence line={l} />
            {l.trouble ? (
              <span className={`block font-semibold ${l.stops ? "text-danger" : "text-limit"}`}>
                {l.stops ? "Stops: " : "Mind: "}
                {l.trouble}
              </span>
            ) : null}
          </dd>
          <dd className="m-0 text-right">{l.why ? <Why figure={l.why} /> : null}</dd>
        </div>
      ))}
    </dl>
  );
}

/** What follows from the pressure for one step, where that step needs it. Empty while the window is. */
export function Follows({ steps, title = "What follows from the pressure", except = [] }: { steps: readonly string[]; title?: string; except?: readonly string[] }) {
  const pack = usePack();
  const lines = (pack.derived?.lines ?? []).filter((l) => steps.includes(l.step) && !except.includes(l.key));
  if (lines.length === 0) return null;
  return (
    <Section title={title}>
      <LineList lines={lines} />
    </Section>
  );
}
