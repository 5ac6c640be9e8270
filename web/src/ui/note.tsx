import type { ReactNode } from "react";

const KINDS = { stop: "border-danger text-danger", limit: "border-limit text-limit", plain: "border-water text-ink" } as const;

/** A sentence that matters here: what, why, what to do. The word in front says how grave it is without its colour. */
export function Note({ kind, word, children, live }: { kind: keyof typeof KINDS; word?: string; children: ReactNode; live?: boolean }) {
  return (
    <div className={`border-l-4 bg-sheet px-3 py-2 text-sm ${KINDS[kind]}`} data-note={kind} role={live ? "alert" : undefined}>
      {word ? <strong className="mr-1">{word}</strong> : null}
      {children}
    </div>
  );
}

/** Why what was just tried did not work; nothing while all is well. */
export function Problem({ children }: { children: string }) {
  return children ? (
    <Note kind="stop" live>
      {children}
    </Note>
  ) : null;
}
