import { useState } from "react";
import { isOutrun, type Plan, sentence } from "../api/client";
import { usePack, usePackActions } from "../api/pack";
import { changed, rebase } from "../api/rebase";

/** A plan being changed by one part of a screen: saved on the version on which it began; what somebody else did meanwhile is taken over, and what was typed is kept. */
export function usePlanDraft() {
  const pack = usePack();
  const actions = usePackActions();
  const [base, setBase] = useState(pack);
  const [draft, setDraft] = useState<Plan>(pack.plan);
  const [problem, setProblem] = useState("");
  const dirty = changed(base.plan, draft);
  // a newer version is taken over only while nothing is typed
  if (base.version !== pack.version && !dirty) {
    setBase(pack);
    setDraft(pack.plan);
  }
  return {
    draft,
    dirty,
    problem,
    setProblem,
    fixed: !pack.may.plan || Boolean(pack.locked),
    set: (change: Partial<Plan>) => setDraft((d) => ({ ...d, ...change })),
    async save() {
      setProblem("");
      try {
        const saved = await actions.plan(draft, base.title, base.version);
        setBase(saved);
        setDraft(saved.plan);
      } catch (e) {
        setProblem(sentence(e));
        if (!isOutrun(e)) return;
        const theirs = await actions.newest();
        setDraft(rebase(base.plan, draft, theirs.plan));
        setBase(theirs);
      }
    },
  };
}
