import { useVirtualizer } from "@tanstack/react-virtual";
import type { RefObject } from "react";
import { usePrinting } from "../../ui";

/** Up to so many rows all are drawn. */
const ALL = 120;

/** The rows of a long table that are seen, with the room before and after them; of a short one, and on paper, all. */
export function useSeenRows(count: number, box: RefObject<HTMLElement | null>, height: number) {
  const drawn = useVirtualizer({ count, getScrollElement: () => box.current, estimateSize: () => height, overscan: 10 });
  const printing = usePrinting();
  if (count <= ALL || printing) return { rows: Array.from({ length: count }, (_, i) => i), before: 0, after: 0, show: () => {} };
  const items = drawn.getVirtualItems();
  return {
    rows: items.map((v) => v.index),
    before: items[0]?.start ?? 0,
    after: drawn.getTotalSize() - (items.at(-1)?.end ?? 0),
    show: (row: number) => drawn.scrollToIndex(Math.max(0, row)),
  };
}

/** The room of rows that are not drawn. */
export function Gap({ height, columns }: { height: number; columns: number }) {
  return height > 0 ? (
    <tr>
      <td colSpan={columns} style={{ height, padding: 0 }} />
    </tr>
  ) : null;
}
