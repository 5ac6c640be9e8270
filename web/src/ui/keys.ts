import { useEffect, useState } from "react";

const OFF = "single-keys-off";

/** Whether single-letter keys act; a person may switch them off. */
export function useKeysOn(): [boolean, (on: boolean) => void] {
  const [on, setOn] = useState(() => localStorage.getItem(OFF) !== "1");
  return [
    on,
    (value) => {
      setOn(value);
      localStorage.setItem(OFF, value ? "0" : "1");
    },
  ];
}

/** Acts on a single key outside of fields. */
export function useKey(key: string, act: () => void, enabled = true) {
  useEffect(() => {
    if (!enabled) return;
    const listen = (e: KeyboardEvent) => {
      const target = e.target as HTMLElement;
      const typing = target.isContentEditable || ["INPUT", "TEXTAREA", "SELECT"].includes(target.tagName);
      if (e.key !== key || typing || e.ctrlKey || e.metaKey || e.altKey || localStorage.getItem(OFF) === "1") return;
      if (document.querySelector('[role="dialog"]') && key !== "Escape") return;
      e.preventDefault();
      act();
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, [key, act, enabled]);
}
