import { useRef, useState } from "react";
import { siteNow } from "../api/clock";
import { newId, type Schema } from "../api/client";
import { perform, waits } from "../api/outbox";
import { usePackActions } from "../api/pack";
import { term } from "../api/words";

type Kind = Schema["EventKind"];

/** What can happen more than once in a moment. */
const MANY: readonly Kind[] = ["leak_seen", "noted", "look_done"];

/** Books events on an attempt; a refusal comes back as its sentence. Where the server cannot be reached they are kept on this device, and sent later. */
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
      if (!MANY.includes(kind) && waits(attempt, kind)) {
        setProblem("This is kept on this device already, and is sent as soon as the server can be reached.");
        return false;
      }
      setBusy(true);
      try {
        const what = JSON.stringify([attempt, kind, more]);
        if (sent.current.what !== what) sent.current = { what, id: newId(), at: more.at ?? new Date(siteNow()).toISOString() };
        const { id, at } = sent.current;
        const body = {
          kind,
          at,
          place: more.place ?? null,
          looked: more.looked ?? null,
          note: more.note ?? "",
          volume_m3: more.volume_m3 ?? null,
          figure: more.figure ?? null,
          of: more.of ?? null,
        };
        const { why } = await perform([{ id, attempt, at, words: term("event", kind).words, does: { is: "event", body } }]);
        sent.current.what = "";
        setProblem(why);
        if (why) return false;
        await refresh();
        return true;
      } finally {
        setBusy(false);
      }
    },
  };
}
