import { api } from "../../api/client";
import { usePack } from "../../api/pack";
import { Rows, Section } from "../../ui";
import { useFigures } from "../../units";

/** What the hold as planned will be able to show, and which hold and instrument show the leak that is asked. */
export function HoldPromise({ title = "What the hold will be able to show" }: { title?: string }) {
  const pack = usePack();
  const show = useFigures(pack);
  const view = api.useQuery("get", "/api/v1/packs/{id}/promise", { params: { path: { id: pack.id } } });
  if (!view.data) return null;
  const { promise, missing } = view.data;
  const flow = (q: number) => show.of(q, pack.plan.basis.medium !== "liquid" ? "normal_leak_m3_per_s" : "leak_m3_per_s");
  return (
    <Section title={title} aside={promise ? `from ${flow(promise.limit_m3_per_s)}` : undefined}>
      {promise ? (
        <>
          <p className={`m-0 ${promise.asked_m3_per_s != null && promise.limit_m3_per_s > promise.asked_m3_per_s ? "font-semibold text-limit" : ""}`} data-promise>
            {promise.sentence}
          </p>
          {promise.ways.length ? (
            <Rows columns={[`to show ${flow(promise.asked_m3_per_s ?? 0)}, with`, "hold"]}>
              {promise.ways.map((w) => (
                <tr key={w.with} className="border-b border-hair">
                  <td className="py-1.5">{w.with}</td>
                  <td className="num">{w.hold_s == null ? "no hold of three days" : show.of(w.hold_s, "time_s")}</td>
                </tr>
              ))}
            </Rows>
          ) : null}
        </>
      ) : (
        <p className="m-0 text-sm text-soft">{missing || "Nothing can be said from this plan."}</p>
      )}
    </Section>
  );
}
