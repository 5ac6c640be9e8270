const LINES = ["a", "b", "c", "d", "e", "f", "g", "h"] as const;

/** Lines of paper while something is on its way: nothing stands there yet that could be read as an answer. */
export function Skeleton() {
  return (
    <div aria-hidden className="grid" data-loading>
      {LINES.map((line) => (
        <div key={line} className="flex gap-6 border-b border-hair py-3">
          <span className="h-3 w-16 bg-hair" />
          <span className="h-3 flex-1 bg-wash" />
          <span className="h-3 w-24 bg-wash" />
        </div>
      ))}
    </div>
  );
}
