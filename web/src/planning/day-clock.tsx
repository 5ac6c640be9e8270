import { usePack } from "../api/pack";
import { Rows, Section } from "../ui";
import { useFigures } from "../units";

const clock = (minutes: number) => `${String(Math.floor(minutes / 60) % 24).padStart(2, "0")}:${String(Math.floor(minutes % 60)).padStart(2, "0")}`;

/** The whole day, one stretch after the other, by the clock where a start is entered. */
export function DayClock() {
  const pack = usePack();
  const show = useFigures(pack);
  const span = (s: number) => show.of(s, "time_s");
  if (pack.clock.length === 0) return null;
  const start = /^(\d{1,2}):(\d{2})$/.exec(pack.plan.site?.start ?? "");
  const first = start ? Number(start[1]) * 60 + Number(start[2]) : null;
  const last = pack.clock.at(-1);
  const ends = last ? last.starts_s + (last.lasts_s ?? 0) : 0;
  const open = pack.clock.some((s) => s.lasts_s == null);
  const when = (s: number) => {
    if (first == null) return `+${span(s)}`;
    const day = Math.floor((first + s / 60) / 1440);
    return `${clock(first + s / 60)}${day ? ` +${day}d` : ""}`;
  };
  return (
    <Section title="The day by the clock" aside={`${open ? "at least " : ""}${span(ends)}${first == null ? "; enter when filling starts" : `, over at ${when(ends)}`}`}>
      <Rows columns={["starts", "what", "lasts"]}>
        {pack.clock.map((s) => (
          <tr key={s.what} className="border-b border-hair">
            <td className="num w-20 py-1.5 pr-3">{s.starts_s === 0 && first == null ? "start" : when(s.starts_s)}</td>
            <td className="pr-3">
              {s.what}
              <span className="block text-xs text-soft">{s.from}</span>
            </td>
            <td className="num text-right font-semibold">{s.lasts_s == null ? "not known" : s.lasts_s === 0 ? "none" : span(s.lasts_s)}</td>
          </tr>
        ))}
      </Rows>
    </Section>
  );
}
