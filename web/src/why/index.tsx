import { word } from "../api/words";
import { type ReactNode, useState } from "react";
import { api, type Schema, sentence } from "../api/client";
import { usePack } from "../api/pack";
import { Dialog } from "../ui";
import { useFigures } from "../units";

type Derivation = Schema["Derivation"];
type Amount = Schema["Amount"];

/** What opens an answer, and the answer while it is open. */
function Opens({ label, name, children }: { label?: string; name?: string; children: (close: () => void) => ReactNode }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <button
        type="button"
        className="border-0 bg-transparent p-0 text-sm text-water underline decoration-dotted underline-offset-2 hover:text-ink"
        onClick={() => setOpen(true)}
        aria-haspopup="dialog"
        aria-label={name ? `why: ${name}` : undefined}
      >
        {label ?? "why?"}
      </button>
      {open ? children(() => setOpen(false)) : null}
    </>
  );
}

/** A figure's *why?*: opens its derivation. */
export function Why({ figure, label }: { figure: string; label?: string }) {
  return <Opens label={label}>{(close) => <WhyDialog figure={figure} onClose={close} />}</Opens>;
}

/** The *why?* of a derivation that is at hand. */
export function WhyOf({ derivation }: { derivation: Derivation }) {
  return (
    <Opens name={derivation.figure}>
      {(close) => (
        <Dialog open onOpenChange={(o) => !o && close()} title={`Why this ${derivation.figure}?`} wide>
          <Body d={derivation} />
        </Dialog>
      )}
    </Opens>
  );
}

/** The *why?* of what a rule says. */
export function WhyRule({ result }: { result: Schema["RuleResult"] }) {
  return (
    <Opens name={result.rule}>
      {(close) => (
        <Dialog open onOpenChange={(o) => !o && close()} title={`What does ${result.rule} ask?`} wide>
          <div className="grid gap-4">
            <p className="m-0" data-published>
              {result.asks}
            </p>
            <p className="m-0 bg-chart p-3">{result.sentence}</p>
            <dl className="m-0 grid grid-cols-[9rem_1fr] gap-x-4 gap-y-1 text-sm">
              {result.margin ? <Fact term="margin" text={result.margin} /> : null}
              <Fact term="source" text={result.source} />
            </dl>
            <p className="m-0 text-xs text-soft">The adopted code and a licensed or appointed person decide.</p>
          </div>
        </Dialog>
      )}
    </Opens>
  );
}

function WhyDialog({ figure, onClose }: { figure: string; onClose: () => void }) {
  const pack = usePack();
  const why = api.useQuery("get", "/api/v1/packs/{id}/why/{figure}", { params: { path: { id: pack.id, figure } } });
  return (
    <Dialog open onOpenChange={(o) => !o && onClose()} title={why.data ? `Why this ${why.data.figure}?` : "Why?"} wide>
      {why.isError ? <p>{sentence(why.error)}</p> : why.data ? <Body d={why.data} /> : <p className="text-soft">working it out</p>}
    </Dialog>
  );
}

function Body({ d }: { d: Derivation }) {
  const pack = usePack();
  const show = useFigures(pack);
  const amount = (a: Amount) => show.exactly(a);
  return (
    <div className="grid gap-4">
      <p className="num m-0 text-xl font-semibold whitespace-normal">{amount(d.result)}</p>
      <div data-published>
        <p className="m-0 text-sm text-soft">The rule as it is written:</p>
        <p className="m-0">{d.sentence}</p>
        <p className="num m-0 mt-3 bg-chart p-3 text-base whitespace-normal">{d.formula}</p>
      </div>
      {d.inputs.length ? (
        <table className="w-full border-collapse text-sm">
          <thead>
            <tr className="border-b border-rule text-soft">
              <th scope="col" className="py-1 pr-3">
                put in
              </th>
              <th scope="col" className="pr-3">
                what
              </th>
              <th scope="col" className="pr-3">
                value
              </th>
              <th scope="col">from</th>
            </tr>
          </thead>
          <tbody>
            {d.inputs.map((i) => (
              <tr key={i.symbol + i.meaning} className="border-b border-hair">
                <td className="num py-1 pr-3" data-published>
                  {i.symbol}
                </td>
                <td className="pr-3">{i.meaning}</td>
                <td className="num pr-3 font-semibold">{amount(i.amount)}</td>
                <td className="text-soft" data-published>
                  {i.source}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : null}
      <dl className="m-0 grid grid-cols-[9rem_1fr] gap-x-4 gap-y-1 text-sm">
        {d.rounding ? <Fact term="rounded" text={`from ${amount(d.rounding.before)}`} published={d.rounding.words} /> : null}
        {d.governed_by ? <Fact term="governed by" text={d.governed_by} /> : null}
        <Fact term="rule" text={d.rule} />
        {d.clause ? <Fact term="clause" text={`${d.clause}${d.edition ? `, ${d.edition}` : ""}`} /> : null}
        <Fact term="standing" text={word("standing", d.standing)} />
        {d.would_change ? <Fact term="would change with" published={d.would_change} /> : null}
      </dl>
      <p className="m-0 text-xs text-soft">Figures in {show.symbol} where they are pressures. The adopted code and a licensed or appointed person decide.</p>
    </div>
  );
}

/** A fact of a derivation, and what the book says in its own unit. */
function Fact({ term, text, published }: { term: string; text?: string; published?: string }) {
  return (
    <>
      <dt className="text-soft">{term}</dt>
      <dd className="m-0">
        {text}
        {text && published ? ", " : null}
        {published ? <span data-published>{published}</span> : null}
      </dd>
    </>
  );
}
