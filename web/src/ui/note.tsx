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

/** Across a figure that is no longer now, so that nobody takes it for what the gauge reads. */
export function NotNow({ children }: { children: string }) {
  return (
    <strong role="alert" data-not-now className="absolute inset-x-0 top-1/2 z-10 -translate-y-1/2 bg-danger px-3 py-1 text-center text-base leading-snug text-paper">
      {children}
    </strong>
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
