import { useState } from "react";

/** How the screen is lit: by day, by night, in the sun. */
export const THEMES = ["light", "dark", "outdoor"] as const;
export type Theme = (typeof THEMES)[number];

const kept = () => THEMES.find((t) => t === localStorage.getItem("theme")) ?? "light";

/** Puts the kept theme on the page; called before anything is drawn, so that nothing flashes. */
export function applyTheme() {
  document.documentElement.dataset.theme = kept();
}

/** The person's theme, kept on this machine. */
export function useTheme(): [Theme, (theme: Theme) => void] {
  const [theme, setTheme] = useState(kept);
  return [
    theme,
    (next) => {
      localStorage.setItem("theme", next);
      applyTheme();
      setTheme(next);
    },
  ];
}
