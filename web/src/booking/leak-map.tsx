import { useAttempt, usePack } from "../api/pack";
import { word } from "../api/words";
import { clockOf } from "../api/zone";

/** So many places are named; the rest is counted. */
const NAMED = 8;

/** What was seen leaking in this attempt, and what nobody has looked at yet: the repair is one repair only where all of it is known before the pressure is out. */
export function LeakMap({ upright = "m-0 max-w-[80ch]" }: { upright?: string }) {
  const pack = usePack();
  const attempt = useAttempt();
  const leaks = attempt?.events.filter((e) => e.kind === "leak_seen") ?? [];
  if (!attempt || !leaks.length) return null;
  const open = pack.looks.filter((l) => !(l.looked && l.attempt === attempt.number));
  const named = open.slice(0, NAMED).map((l) => l.what);
  const more = open.length - named.length;
  return (
    <div className="grid gap-1" data-leak-map={open.length}>
      <p className={upright}>
        <strong>Seen leaking: </strong>
        {leaks.map((e) => `${e.note || (e.place ? word("leak_place", e.place) : "a place not written down")} (${clockOf(e.at)})`).join("; ")}.
      </p>
      <p className={upright}>
        {open.length ? (
          <>
            <strong>Nobody has looked yet at: </strong>
            {named.join("; ")}
            {more > 0 ? ` and ${more} more` : ""}. Look while it is safe, so that one repair is enough; what you leave stands in the record as not looked at.
          </>
        ) : pack.looks.length ? (
          "Every place on the list was looked at in this attempt."
        ) : (
          "There is no list of places. Walk along all of it once more while it is safe, so that one repair is enough."
        )}
      </p>
    </div>
  );
}
