import { useSyncExternalStore } from "react";
import { siteNow } from "./clock";

/** Whether the server is heard. It speaks once a second; after so much silence nobody hears it. */
export const SILENT_MS = 2_500;
/** A page that was not looked at has missed nothing: the browser lets it sleep. */
const LOOKS_EVERY_MS = 500;

let heardAt = performance.now();
/** When it was heard last, by the installation's clock; nil while it is heard. */
let silentSince: number | null = null;
const told = new Set<() => void>();

function set(since: number | null) {
  if ((since === null) === (silentSince === null)) return;
  silentSince = since;
  for (const tell of told) tell();
}

/** The server has just been heard. */
export function heard() {
  heardAt = performance.now();
  set(null);
}

/** The connection has broken, or the device says that it has none. */
export function silent() {
  set(siteNow());
}

/** Looks after the silence until the function that comes back is called. */
export function watchReach(): () => void {
  heardAt = performance.now();
  const look = setInterval(() => {
    if (document.hidden) heardAt = performance.now();
    else if (performance.now() - heardAt > SILENT_MS) silent();
  }, LOOKS_EVERY_MS);
  window.addEventListener("offline", silent);
  return () => {
    clearInterval(look);
    window.removeEventListener("offline", silent);
    set(null);
  };
}

const subscribe = (tell: () => void) => {
  told.add(tell);
  return () => {
    told.delete(tell);
  };
};

/** Since when the server is not heard, by the installation's clock; nil while it is. */
export function useSilentSince(): number | null {
  return useSyncExternalStore(subscribe, () => silentSince);
}
