import { useRef, useState } from "react";
import { siteNow } from "../api/clock";
import { http, newId, type Schema, sentence } from "../api/client";
import { usePackActions } from "../api/pack";

type Kind = Schema["EventKind"];

/** Books events on an attempt; a refusal comes back as its sentence. */
export function useBook(attempt: string) {
  const { refresh } = usePackActions();
  const [problem, setProblem] = useState("");
  const [busy, setBusy] = useState(false);
  // what was sent and not yet acknowledged: tapped again it has the same id and time, so it is stored once
  const sent = useRef({ what: "", id: "", at: "" });
  return {
    problem,
    busy,
    async book(
      kind: Kind,
      more: { place?: Schema["LeakPlace"]; looked?: number; note?: string; at?: string; volume_m3?: number; figure?: number; of?: string } = {},
    ): Promise<boolean> {
      setProblem("");
      setBusy(true);
      try {
        const what = JSON.stringify([attempt, kind, more]);
        if (sent.current.what !== what) sent.current = { what, id: newId(), at: more.at ?? new Date(siteNow()).toISOString() };
        const body = {
          kind,
          at: sent.current.at,
          place: more.place ?? null,
          looked: more.looked ?? null,
          note: more.note ?? "",
          volume_m3: more.volume_m3 ?? null,
          figure: more.figure ?? null,
          of: more.of ?? null,
        };
        const { error } = await http.PUT("/api/v1/attempts/{attempt}/events/{event}", { params: { path: { attempt, event: sent.current.id } }, body });
        sent.current.what = "";
        if (error) {
          setProblem(sentence(error));
          return false;
        }
        await refresh();
        return true;
      } catch (e) {
        setProblem(sentence(e));
        return false;
      } finally {
        setBusy(false);
      }
    },
  };
}
