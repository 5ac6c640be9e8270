import { api, type Attempt } from "../../api/client";
import { Note, Rows, Section } from "../../ui";

/** What a practice run teaches: what was hidden and whether it was found, what was skipped, what would have hurt somebody. */
export function Debrief({ attempt }: { attempt: Attempt }) {
  const seen = api.useQuery("get", "/api/v1/attempts/{attempt}/debrief", { params: { path: { attempt: attempt.id } } });
  const d = seen.data;
  if (!d) return null;
  return (
    <Section title="What this practice hid" aside={`${d.hidden.filter((h) => h.found).length} of ${d.hidden.length} found`}>
      {d.hidden.length ? (
        <Rows columns={["", "what it was", "how you know"]}>
          {d.hidden.map((h) => (
            <tr key={h.was} className="border-b border-hair align-baseline" data-found={h.found}>
              <td className={`w-24 py-1.5 text-sm font-bold ${h.found ? "text-water" : "text-limit"}`}>{h.found ? "found" : "missed"}</td>
              <td className="pr-3">{h.was}</td>
              <td className="text-soft">{h.how}</td>
            </tr>
          ))}
        </Rows>
      ) : (
        <p className="m-0">Nothing: this system was sound, well vented and as warm as its surroundings.</p>
      )}
      <Listed title="Skipped" all={d.skipped} none="Nothing was skipped." />
      {d.dangerous.map((s) => (
        <Note key={s} kind="stop">
          {s}
        </Note>
      ))}
      {d.dangerous.length ? null : <p className="m-0">Nothing that was booked would have been dangerous on a real system.</p>}
    </Section>
  );
}

function Listed({ title, all, none }: { title: string; all: readonly string[]; none: string }) {
  return (
    <div>
      <h3 className="m-0 text-base font-bold">{title}</h3>
      {all.length ? (
        <ul className="m-0 list-disc pl-5">
          {all.map((s) => (
            <li key={s}>{s}</li>
          ))}
        </ul>
      ) : (
        <p className="m-0">{none}</p>
      )}
    </div>
  );
}
