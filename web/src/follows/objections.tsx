import { Link } from "@tanstack/react-router";
import { allAgainst } from "../api/against";
import { usePack } from "../api/pack";
import { Note } from "../ui";

const NAMES: Record<string, string> = {
  prove: "Prove",
  derive: "Derive",
  bound: "Bound",
  ready: "Ready",
  fill: "Fill",
  raise: "Raise",
  hold: "Hold",
  restore: "Restore",
};

/** All that stands against the test at once, each with the part, the column or field, and the step where it is mended. */
export function Objections({ here, except = "" }: { here: string; except?: string }) {
  const pack = usePack();
  const all = allAgainst(pack).filter((o) => o.sentence !== except);
  if (all.length === 0) return null;
  return (
    <ul className="m-0 grid list-none gap-2 p-0" aria-label="What stops this test" data-objections={all.length}>
      {all.map((o) => (
        <li key={`${o.rule} ${o.part ?? ""} ${o.field} ${o.sentence}`} data-rule={o.rule}>
          <Note kind="stop" word={o.part ? `${o.part}:` : "Stops:"}>
            {o.part && o.sentence.startsWith(`${o.part}: `) ? o.sentence.slice(o.part.length + 2) : o.sentence}{" "}
            <span className="whitespace-nowrap text-soft">
              {o.step !== here && NAMES[o.step] ? (
                <>
                  Mend it in{" "}
                  <Link to={`/tests/${pack.id}/${o.step}` as "/"} className="underline">
                    {NAMES[o.step]}
                  </Link>
                  .{" "}
                </>
              ) : null}
              {o.rule.startsWith("line:") ? null : <span className="text-xs">{o.rule}</span>}
            </span>
          </Note>
        </li>
      ))}
    </ul>
  );
}
