import type { ReactNode } from "react";
import { Button, Problem } from "../ui";
import type { usePlanDraft } from "./draft";

interface Props {
  draft: ReturnType<typeof usePlanDraft>;
  /** What its button says; a screen with several forms names each. */
  save?: string;
  /** Why it cannot be saved as it is typed; empty when it can. */
  refuse?: string;
  children: ReactNode;
}

/** A part of the plan with its own Save. */
export function DraftForm({ draft, save = "Save", refuse = "", children }: Props) {
  return (
    <form
      className="grid gap-3"
      onSubmit={(e) => {
        e.preventDefault();
        // a figure that cannot be read is in no draft: what was there before would be saved in its place
        const unread = e.currentTarget.querySelector<HTMLElement>("[data-unread]");
        if (unread) {
          unread.focus();
          draft.setProblem("Not saved: a figure here cannot be read. Mend it, or leave it empty.");
        } else if (refuse) draft.setProblem(refuse);
        else void draft.save();
      }}
    >
      <fieldset disabled={draft.fixed} className="m-0 grid min-w-0 grid-cols-2 gap-3 border-0 p-0 max-[700px]:grid-cols-1">
        {children}
      </fieldset>
      <Problem>{draft.problem}</Problem>
      {draft.fixed ? null : (
        <div className="flex items-center gap-3">
          <Button type="submit" kind="main" disabled={!draft.dirty && !refuse}>
            {save}
          </Button>
          <span role="status" className="text-sm text-soft">
            {draft.words}
          </span>
          {draft.dirty ? (
            <button type="button" className="border-0 bg-transparent p-0 text-sm text-water underline" onClick={draft.back}>
              Throw it away
            </button>
          ) : null}
        </div>
      )}
    </form>
  );
}
