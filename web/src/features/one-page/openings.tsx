import { useState } from "react";
import { http, refusal, type Schema } from "../../api/client";
import { usePack, usePackActions } from "../../api/pack";
import { useKept } from "../../api/typing";
import { useRegister } from "../../registers";
import { Button, Field, Problem } from "../../ui";

type Item = Schema["PackView"]["boundary"][number];
const bare = (b: Item): Schema["BoundaryItem"] => ({ tag: b.tag, kind: b.kind, place: b.place, set_for_test: b.set_for_test, put_back: b.put_back });

/** Lines as they were typed or pasted: a row of a table is one line, its cells one after the other. */
export function linesOf(text: string): string[] {
  const lines = text.split(/\r?\n/).map((l) =>
    l
      .split("\t")
      .map((c) => c.trim())
      .filter(Boolean)
      .join(", "),
  );
  return [...new Set(lines.filter(Boolean))];
}

/** How many openings a line stands for: "14 plugs, 1/4 in BSP" is fourteen, whatever else it says. */
export function countOf(line: string): number {
  const n = Number(/^(\d{1,3})\s+(?![/.,\d]|(?:in|inch|mm|cm|bar|psi)\b)/.exec(line)?.[1] ?? 1);
  return n > 0 ? n : 1;
}

/** What closes it for the test: a line for all that are alike, in by one tick and out by one. */
export function Openings() {
  const pack = usePack();
  const register = useRegister("boundary");
  const { refresh } = usePackActions();
  const [{ text }, set, added] = useKept(`openings ${pack.id}`, "what closes it", { text: "" });
  const [busy, setBusy] = useState(false);
  const [wrong, setWrong] = useState("");
  const add = async () => {
    const lines = linesOf(text).filter((l) => !pack.boundary.some((b) => b.tag === l));
    const long = lines.find((l) => l.length > 64);
    setWrong(
      long ? `Say it in 64 characters: "${long}" has ${long.length}.` : lines.length ? "" : "Write what closes it, for example: 14 plugs, 1/4 in BSP, fibre washers.",
    );
    if (long || !lines.length) return;
    setBusy(true);
    for (const tag of lines) if (!(await register.add({ tag, kind: "plug", place: pack.title, set_for_test: false, put_back: false }))) return setBusy(false);
    added();
    // what is fitted for the test is looked at, too
    await refusal(http.PUT("/api/v1/packs/{id}/looks", { params: { path: { id: pack.id } } }));
    await refresh();
    setBusy(false);
  };
  const change = pack.may.plan && !pack.locked;
  let first = 1;
  return (
    <div className="grid gap-2">
      <h3 className="m-0 text-base font-semibold">Openings, and what closes them</h3>
      {pack.boundary.length ? (
        <div className="grid gap-3">
          <Sketch boundary={pack.boundary} boiler={pack.plan.object === "boiler" || pack.plan.object === "miniature_boiler"} />
          <ul className="m-0 list-none p-0">
            {pack.boundary.map((b) => {
              const n = countOf(b.tag);
              const numbers = n > 1 ? `${first} to ${first + n - 1}` : `${first}`;
              first += n;
              return (
                <li key={b.id} className="flex flex-wrap items-center justify-between gap-3 border-b border-hair py-2" data-opening={b.tag}>
                  <span>
                    <span className="num mr-2 text-soft">{numbers}</span>
                    {b.tag}
                  </span>
                  {b.set_for_test ? (
                    <span className="text-sm font-semibold text-water">{b.put_back ? "out again" : n > 1 ? `all ${n} in` : "in"}</span>
                  ) : change ? (
                    <Button onClick={() => void register.change(b, { ...bare(b), set_for_test: true })}>{n > 1 ? `All ${n} are in` : "It is in"}</Button>
                  ) : (
                    <span className="text-sm text-limit">not in yet</span>
                  )}
                </li>
              );
            })}
          </ul>
        </div>
      ) : null}
      <Problem>{register.problem}</Problem>
      {change ? (
        <div className="grid gap-2">
          <Field
            label={pack.boundary.length ? "More of them, a line each" : "A line for all that are alike; none if nothing is closed for the test"}
            hint="For example: 14 plugs, 1/4 in BSP, fibre washers. A table can be pasted: each row is a line."
            error={wrong || undefined}
          >
            {(f) => (
              <textarea
                {...f}
                rows={2}
                className="w-full rounded-[3px] border border-rule bg-sheet px-2.5 py-1.5 text-base text-ink"
                value={text}
                onChange={(e) => set({ text: e.target.value })}
              />
            )}
          </Field>
          {text.trim() ? (
            <div>
              <Button disabled={busy} onClick={() => void add()}>
                Put them on the list
              </Button>
            </div>
          ) : null}
        </div>
      ) : null}
    </div>
  );
}

/** Most openings that the sketch numbers one by one. */
const MOST = 40;

/** The object from the side, with a number for each opening: what is in is filled. Where they really sit is on the object, not on the sketch. */
function Sketch({ boundary, boiler }: { boundary: readonly Item[]; boiler: boolean }) {
  const marks = boundary.flatMap((b) => Array.from({ length: countOf(b.tag) }, () => b.set_for_test && !b.put_back)).slice(0, MOST);
  const half = Math.ceil(marks.length / 2);
  const place = (i: number) => {
    const top = i < half;
    const n = top ? half : marks.length - half;
    return { x: 60 + ((top ? i : i - half) + 0.5) * (480 / Math.max(1, n)), y: top ? 34 : 126 };
  };
  return (
    <svg viewBox="0 0 600 160" role="img" aria-label={`${marks.length} openings, ${marks.filter(Boolean).length} of them closed`} className="w-full max-w-xl" data-sketch>
      <rect x="50" y="34" width="500" height="92" rx={boiler ? 6 : 46} className="fill-wash stroke-rule" strokeWidth="1.5" />
      {marks.map((set, i) => {
        const { x, y } = place(i);
        const r = marks.length > 24 ? 9 : 12;
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: an opening is its number
          <g key={i}>
            <circle
              cx={x}
              cy={y}
              r={r}
              className={set ? "fill-water stroke-water" : "fill-paper stroke-limit"}
              strokeDasharray={set ? undefined : "3 2"}
              strokeWidth="1.5"
            />
            <text x={x} y={y + 4} textAnchor="middle" className={set ? "fill-paper" : "fill-ink"} fontSize={r > 10 ? 12 : 10}>
              {i + 1}
            </text>
          </g>
        );
      })}
    </svg>
  );
}
