import { type Schema, sentence } from "../api/client";
import { Note, Rows } from "../ui";
import { momentOf, zoneName } from "../api/zone";

type Change = Schema["Change"];

/** What differs between before and after, as "what: from → to"; what is new is told in one word. */
export function differences(before: unknown, after: unknown, at = ""): string[] {
  if (before == null && at === "") return ["entered"];
  if (JSON.stringify(before) === JSON.stringify(after)) return [];
  const isObject = (v: unknown): v is Record<string, unknown> => typeof v === "object" && v !== null;
  if (isObject(before) && isObject(after)) {
    const names = [...new Set([...Object.keys(before), ...Object.keys(after)])];
    return names.flatMap((n) => differences(before[n] ?? null, after[n] ?? null, at ? `${at}, ${n}` : n));
  }
  const said = (v: unknown) => (v == null || v === "" ? "nothing" : isObject(v) ? "given" : String(v));
  return [`${at.replaceAll("_", " ")}: ${said(before)} → ${said(after)}`];
}

/** Who changed what, when, from what to what; the last first. */
export function History({ changes, error }: { changes: Change[] | undefined; error?: unknown }) {
  if (error) return <Note kind="stop">{sentence(error)}</Note>;
  if (changes?.length === 0) return <p className="m-0 text-sm text-soft">Nothing has been changed since changes began to be kept.</p>;
  return (
    <div className="max-h-96 overflow-auto" tabIndex={0} role="region" aria-label="Changes">
      <Rows columns={[`when (${zoneName()})`, "who", "what", "change"]}>
        {(changes ?? []).map((c) => (
          <tr key={c.at + c.item} className="border-b border-hair align-baseline" data-change={c.kind}>
            <td className="num py-1 pr-3 whitespace-nowrap">{momentOf(c.at)}</td>
            <td className="pr-3">{c.person}</td>
            <td className="pr-3">
              {c.kind} {c.item}
            </td>
            <td>
              {differences(c.before, c.after)
                .slice(0, 6)
                .map((d) => (
                  <bdi key={d} className="block">
                    {d}
                  </bdi>
                ))}
            </td>
          </tr>
        ))}
      </Rows>
    </div>
  );
}
