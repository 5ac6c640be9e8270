import type { ReactNode } from "react";
import { Button, Problem } from "../ui";
import type { usePlanDraft } from "./draft";

/** A part of the plan with its own Save. */
export function DraftForm({ draft, children }: { draft: ReturnType<typeof usePlanDraft>; children: ReactNode }) {
  return (
    <form
      className="grid gap-3"
      onSubmit={(e) => {
        e.preventDefault();
        void draft.save();
      }}
    >
      <fieldset disabled={draft.fixed} className="m-0 grid min-w-0 grid-cols-2 gap-3 border-0 p-0 max-[700px]:grid-cols-1">
        {children}
      </fieldset>
      <Problem>{draft.problem}</Problem>
      {draft.fixed ? null : (
        <div className="flex items-center gap-3">
          <Button type="submit" kind="main" disabled={!draft.dirty}>
            Save
          </Button>
          <span role="status" className="text-sm text-soft">
            {draft.dirty ? "not saved yet" : ""}
          </span>
        </div>
      )}
    </form>
  );
}
