import { useEffect, useState } from "react";
import { flushSync } from "react-dom";

/** True while the page is put on paper: then every row stands there, not only those that the screen shows. */
export function usePrinting(): boolean {
  const [printing, set] = useState(false);
  useEffect(() => {
    const begin = () => flushSync(() => set(true));
    const end = () => set(false);
    window.addEventListener("beforeprint", begin);
    window.addEventListener("afterprint", end);
    return () => {
      window.removeEventListener("beforeprint", begin);
      window.removeEventListener("afterprint", end);
    };
  }, []);
  return printing;
}
