import { useSyncExternalStore } from "react";

const media = (query: string) => (typeof matchMedia === "undefined" ? undefined : matchMedia(query));
const phone = media("(max-width: 700px)");
const tablet = media("(max-width: 1000px)");
const subscribe = (tell: () => void) => {
  for (const of of [phone, tablet]) of?.addEventListener("change", tell);
  return () => {
    for (const of of [phone, tablet]) of?.removeEventListener("change", tell);
  };
};

/** Width of the sheet on a tablet. */
const MIDDLE = 560;

/** Width of the sheet on which a picture is drawn: narrower on a tablet and on a phone, so that its letters stay as large as those beside it. */
export function useSheet(wide: number, narrow: number): number {
  return useSyncExternalStore(subscribe, () => (phone?.matches ? narrow : tablet?.matches ? Math.min(wide, MIDDLE) : wide));
}
