import { useState } from "react";
import { isOutrun, type Plan, sentence } from "../api/client";
import { usePack, usePackActions } from "../api/pack";
import { changed, rebase } from "../api/rebase";
import { keptTyping, useTyping } from "../api/typing";

/** Typed and not saved, with the plan on which the typing began. */
interface Kept {
  base: Plan;
  mine: Plan;
}

/** A plan being changed by one part of a screen, `what`: saved on the version on which it began; what somebody else did meanwhile is taken over, and what was typed is kept. */
export function usePlanDraft(what: string) {
  const pack = usePack();
  const actions = usePackActions();
  const fixed = !pack.may.plan || Boolean(pack.locked);
  const key = `${what} of ${pack.id}`;
  const [base, setBase] = useState(pack);
  const [draft, setDraft] = useState<Plan>(() => {
    const kept = fixed ? undefined : keptTyping<Kept>(key);
    return kept ? rebase(kept.base, kept.mine, pack.plan) : pack.plan;
  });
  const [problem, setProblem] = useState("");
  const dirty = changed(base.plan, draft);
  const typing = useTyping<Kept>({ key, what, value: () => ({ base: base.plan, mine: draft }), dirty: dirty && !fixed });
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
    fixed,
    /** Where what is typed stands: "kept on this device", or nothing. */
    words: typing.words,
    /** Throws away what is not saved. */
    back() {
      typing.done();
      setProblem("");
      setBase(pack);
      setDraft(pack.plan);
    },
    set: (change: Partial<Plan>) => setDraft((d) => ({ ...d, ...change })),
    async save() {
      setProblem("");
      try {
        const saved = await actions.plan(draft, base.title, base.version);
        typing.done();
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
