import { useState } from "react";
import { http, refusal, type Schema } from "../../api/client";
import { usePack, usePackActions } from "../../api/pack";
import { Button, HeadRow, Problem, Section, Wide } from "../../ui";

/** How each valve, blind and item stands for filling, test, draining and hand-back, in the order in which a crew walks it; on paper with boxes to sign. */
export function LineUp({ look }: { look: Schema["SystemLook"] }) {
  const pack = usePack();
  const { refresh } = usePackActions();
  const [problem, setProblem] = useState("");
  if (look.lines.length === 0) return null;
  const there = new Set(pack.boundary.map((b) => b.tag));
  const missing = look.lines.filter((l) => l.to_sign && !there.has(l.tag));
  const put = async () => {
    const why = await refusal(http.PUT("/api/v1/packs/{id}/line-up", { params: { path: { id: pack.id } } }));
    setProblem(why);
    if (!why) await refresh();
  };
  return (
    <Section
      title="Line-up"
      aside={
        <button type="button" className="border-0 bg-transparent p-0 text-water underline print:hidden" onClick={() => window.print()}>
          print it
        </button>
      }
    >
      <Wide label="Line-up">
        <table className="w-full border-collapse text-sm" data-line-up>
          <HeadRow columns={["tag", "what", "where", "to fill", "for the test", "to drain", "handed back", "set by, when", "back by, when"]} />
          <tbody>
            {look.lines.map((l) => {
              const row = pack.boundary.find((b) => b.tag === l.tag);
              return (
                <tr key={l.tag} className="border-b border-hair">
                  <td className="num py-1.5 pr-3 font-semibold">{l.tag}</td>
                  <td className="pr-3">{l.what}</td>
                  <td className="pr-3">{l.place}</td>
                  <td className="pr-3">{l.fill}</td>
                  <td className="pr-3 font-semibold">{l.test}</td>
                  <td className="pr-3">{l.drain}</td>
                  <td className="pr-3">{l.back}</td>
                  <td className="min-w-28 border-l border-hair px-2">{row?.set_for_test ? row.marks.set_for_test?.by : ""}</td>
                  <td className="min-w-28 border-l border-hair px-2">{row?.put_back ? row.marks.put_back?.by : ""}</td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </Wide>
      <Problem>{problem}</Problem>
      {pack.may.plan && missing.length && !pack.locked ? (
        <div className="flex flex-wrap items-center gap-3 print:hidden">
          <Button kind="main" onClick={put}>
            Put {missing.length === 1 ? missing[0]?.tag : `these ${missing.length}`} on the register
          </Button>
          <span className="text-sm text-soft">
            {missing
              .slice(0, 6)
              .map((l) => l.tag)
              .join(", ")}
            {missing.length > 6 ? ` and ${missing.length - 6} more` : ""} must be set, signed and put back.
          </span>
        </div>
      ) : null}
    </Section>
  );
}
