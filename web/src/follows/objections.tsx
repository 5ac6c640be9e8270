import { Link } from "@tanstack/react-router";
import { usePack } from "../api/pack";
import { word } from "../api/words";
import { Note } from "../ui";

/** All that stands against the test at once, each with the part, the column or field, and the step where it is mended. */
export function Objections({ here, except = "" }: { here: string; except?: string }) {
  const pack = usePack();
  const all = pack.against.filter((o) => o.sentence !== except);
  if (all.length === 0) return null;
  return (
    <ul className="m-0 grid list-none gap-2 p-0" aria-label="What stops this test" data-objections={all.length}>
      {all.map((o) => (
        <li key={`${o.rule} ${o.part ?? ""} ${o.field} ${o.sentence}`} data-rule={o.rule}>
          <Note kind="stop" word={o.part ? `${o.part}:` : "Stops:"}>
            {o.says}{" "}
            <span className="whitespace-nowrap text-soft">
              {o.step !== here ? (
                <>
                  Mend it in{" "}
                  <Link to={`/tests/${pack.id}/${o.step}` as "/"} className="underline">
                    {word("step", o.step)}
                  </Link>
                  .{" "}
                </>
              ) : null}
              {o.rule ? <span className="text-xs">{o.rule}</span> : null}
            </span>
          </Note>
        </li>
      ))}
    </ul>
  );
}
