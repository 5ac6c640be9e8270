import type { ReactNode } from "react";
import type { Schema } from "../../api/client";
import { WhyOf } from "../../why";
import type { Figures } from "../../units";

/** What statistics say, figure by figure, each with its *why?*. */
export function Finding({ judgement, show, gas }: { judgement: Schema["Judgement"]; show: Figures; gas: boolean }) {
  const { found, derivations } = judgement;
  const flow = (v: number) => show.of(v, gas ? "normal_leak_m3_per_s" : "leak_m3_per_s");
  // each with the digits of its own half-width, so that a small share is not lost
  const band = (b: Schema["Band"]) => {
    return `${show.to(b.value, b.half_width_95)} ± ${show.to(b.half_width_95, b.half_width_95)}\u00a0${show.symbol}`;
  };
  const why = (figure: string) => derivations.find((x) => x.figure === figure);
  const leak = found.leak;
  return (
    <dl className="m-0 text-sm">
      {found.reasons.map((r) => (
        <Fact key={r} term="not shown because">
          {r}
        </Fact>
      ))}
      {found.explained_pa ? (
        <Fact term="heat explains a fall of" why={why("fall that heat explains")}>
          {band(found.explained_pa)}
        </Fact>
      ) : null}
      {found.relaxed_pa ? (
        <Fact term="relaxation explains" why={why("fall that relaxation explains")}>
          {band(found.relaxed_pa)}
        </Fact>
      ) : null}
      {found.left_pa ? (
        <Fact term="left over for a leak" why={why("fall that is left for a leak")}>
          {band(found.left_pa)}
        </Fact>
      ) : null}
      {leak ? (
        <>
          <Fact term="mean leak, 95 %" why={why("mean leak over the hold")}>
            {flow(leak.mean_m3_per_s)}, between {flow(leak.lo_m3_per_s)} and {flow(leak.hi_m3_per_s)}
          </Fact>
          <Fact term="at the end, 95 %" why={why("leak at the end of the hold")}>
            {flow(leak.end_m3_per_s)}, between {flow(leak.end_lo_m3_per_s)} and {flow(leak.end_hi_m3_per_s)}
          </Fact>
          <Fact term="ruled out, 99.9 %" why={why("leak that is ruled out")}>
            anything above {flow(Math.max(0, leak.upper_999_m3_per_s))}
          </Fact>
          <Fact term="least it could show" why={why("least leak it could have shown")}>
            {flow(leak.detection_limit_m3_per_s)}
          </Fact>
        </>
      ) : null}
      {found.planned_limit_m3_per_s != null ? (
        <Fact term="the plan promised" why={why("least leak that the plan promised")}>
          {flow(found.planned_limit_m3_per_s)}
        </Fact>
      ) : null}
      {leak && found.finding === "leak_shown" ? (
        <Fact term="as one round hole" why={why("hole that would lose as much")}>
          {show.of(leak.equivalent_hole_m, "length_m")}
        </Fact>
      ) : null}
      {found.noise_pa != null ? (
        <Fact term="scatter about the fit" why={why("scatter of the readings about the fit")}>
          {`${show.to(found.noise_pa, found.noise_pa)}\u00a0${show.symbol}`}
        </Fact>
      ) : null}
      {found.explanations.length ? (
        <Fact term="explanations weighed">
          {found.explanations
            .filter((e) => e.weight >= 0.01)
            .slice(0, 4)
            .map((e) => (
              <span key={e.words} className="block">
                <span className="num inline-block w-14">{Math.round(e.weight * 100)} %</span>
                {e.words}
              </span>
            ))}
        </Fact>
      ) : null}
    </dl>
  );
}

function Fact({ term, why, children }: { term: string; why?: Schema["Derivation"]; children: ReactNode }) {
  return (
    <div className="grid grid-cols-[10.5rem_1fr_auto] gap-3 border-b border-hair py-1.5">
      <dt className="text-soft">{term}</dt>
      <dd className="m-0">{children}</dd>
      <dd className="m-0">{why ? <WhyOf derivation={why} /> : null}</dd>
    </div>
  );
}
