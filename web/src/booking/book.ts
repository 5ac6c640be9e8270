import { useState } from "react";
import { http, newId, type Schema, sentence } from "../api/client";
import { usePackActions } from "../api/pack";

type Kind = Schema["RunEventKind"];

/** Books events on an attempt; a refusal comes back as its sentence. */
export function useBook(attempt: string) {
  const { refresh } = usePackActions();
  const [problem, setProblem] = useState("");
  const [busy, setBusy] = useState(false);
  return {
    problem,
    busy,
    async book(kind: Kind, more: { place?: Schema["LeakPlace"]; note?: string; at?: string } = {}): Promise<boolean> {
      setProblem("");
      setBusy(true);
      try {
        const body = { kind, at: more.at ?? new Date().toISOString(), place: more.place ?? null, note: more.note ?? "" };
        const { error } = await http.PUT("/api/v1/attempts/{attempt}/events/{event}", { params: { path: { attempt, event: newId() } }, body });
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
