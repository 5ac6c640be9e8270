import { useState } from "react";
import { api, http, refusal } from "../api/client";
import { usePackActions } from "../api/pack";
import { Button, Dialog, Field, Problem, Rows, Section, TextInput } from "../ui";
import { clockOf } from "../api/zone";

/** What was typed, as it was typed; a mistyped reading is struck out with a reason, and both stay. */
export function TypedReadings({ attempt, may }: { attempt: string; may: boolean }) {
  const { refresh } = usePackActions();
  const list = api.useQuery("get", "/api/v1/attempts/{attempt}/readings", { params: { path: { attempt } } });
  const [striking, setStriking] = useState<{ id: string; text: string } | null>(null);
  const [reason, setReason] = useState("");
  const [refused, setRefused] = useState("");
  const strike = async () => {
    if (!striking) return;
    const why = await refusal(
      http.PUT("/api/v1/attempts/{attempt}/readings/{reading}/strike", { params: { path: { attempt, reading: striking.id } }, body: { reason } }),
    );
    setRefused(why);
    if (why) return;
    setStriking(null);
    setReason("");
    await Promise.all([refresh(), list.refetch()]);
  };
  const rows = list.data ?? [];
  if (rows.length === 0) return null;
  return (
    <Section title={`Typed readings (${rows.length})`}>
      <div className="max-h-72 overflow-auto" tabIndex={0} role="region" aria-label="Typed readings">
        <Rows columns={["time", "as typed", "who", "counts"]}>
          {rows.map((r) => (
            <tr key={r.id} className="border-b border-hair" data-struck={Boolean(r.struck)}>
              <td className="num py-1 pr-3">{clockOf(r.at, true)}</td>
              <td className={`num ${r.struck ? "text-soft line-through" : ""}`}>
                <span data-typed>
                  {r.as_typed}
                  {r.channel === "temperature" ? " °C" : ""}
                  {r.of ? ` at ${r.of}` : ""}
                </span>
              </td>
              <td className="text-soft">{r.person}</td>
              <td className="text-right text-sm">
                {r.struck ? (
                  <>
                    struck out by {r.struck.by}: <bdi>{r.struck.reason}</bdi>
                  </>
                ) : may ? (
                  <button type="button" className="min-h-6 border-0 bg-transparent p-0 text-water underline" onClick={() => setStriking({ id: r.id, text: r.as_typed })}>
                    strike out <span data-typed>{r.as_typed}</span>…
                  </button>
                ) : null}
              </td>
            </tr>
          ))}
        </Rows>
      </div>
      {striking ? (
        <Dialog
          open
          onOpenChange={(o) => !o && setStriking(null)}
          title={`Strike out ${striking.text}?`}
          description="It stays on the record with your name and the reason; it is not judged. It cannot be brought back: type the right reading besides."
        >
          <form
            className="grid gap-3"
            onSubmit={(e) => {
              e.preventDefault();
              void strike();
            }}
          >
            <Field label="Why it does not count">{(f) => <TextInput {...f} value={reason} onChange={(e) => setReason(e.target.value)} maxLength={300} />}</Field>
            <Problem>{refused}</Problem>
            <div className="flex gap-3">
              <Button type="submit" kind="main">
                Strike it out
              </Button>
              <Button onClick={() => setStriking(null)}>Leave it</Button>
            </div>
          </form>
        </Dialog>
      ) : null}
    </Section>
  );
}
