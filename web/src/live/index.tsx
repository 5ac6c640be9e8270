import { createContext, type ReactNode, useContext, useEffect, useRef, useState } from "react";
import { type Schema, unitWords } from "../api/client";
import { setClock } from "../api/clock";
import { Trail } from "./trail";

export type LiveView = Schema["LiveView"];
export type Point = { t_s: number; value: number };

interface Live {
  view: LiveView | null;
  /** Readings of the gauge that the test is read from, as they came since this page was opened; at most an hour. */
  trail: readonly Point[];
  /** False while the stream is broken; what is on the screen is then the last that was known. */
  connected: boolean;
  /** Seconds since the server was last heard, once that is too long for what is shown to be now; nil while it is heard. */
  silent_s: number;
}

const NOTHING: Live = { view: null, trail: [], connected: false, silent_s: 0 };

/** The server speaks once a second: after so many seconds of silence what is on the screen is not now. */
const SILENT_MS = 3000;
const Context = createContext<Live>(NOTHING);

/** The run as it happens; nothing outside a test that is under way. */
export function useLive(): Live {
  return useContext(Context);
}

interface Props {
  /** Attempt to follow; none where nothing is under way. */
  attempt: string | undefined;
  /** Channel of the gauge that the test is read from. */
  gauge: number;
  onChanged: () => void;
  children: ReactNode;
}

/** Why the figure on the screen is not now; empty while it is. */
export function notNow({ view, silent_s }: Live, gauge: string): string {
  if (silent_s > 0) return `Nothing heard from the server for ${ago(silent_s + (view?.age_s ?? 0))}: this is not now`;
  if (!view?.silent) return "";
  if (view.typed_by) return `${gauge} does not answer: typed by ${view.typed_by}${view.age_s != null ? ` ${ago(view.age_s)} ago` : ""}`;
  return `${gauge} ${view.age_s != null ? `has not answered for ${ago(view.age_s)}: this is not now` : "has not answered yet"}`;
}

/** How long, in words. */
export function ago(s: number): string {
  if (s < 90) return `${Math.round(s)} s`;
  return s < 5400 ? `${Math.round(s / 60)} min` : `${Math.round(s / 3600)} h`;
}

/** Follows an attempt over server-sent events. The browser resumes by itself with the last number that it has, so nothing is missed. */
export function LiveProvider({ attempt, gauge, onChanged, children }: Props) {
  const [live, setLive] = useState<Live>(NOTHING);
  const changed = useRef(onChanged);
  changed.current = onChanged;
  const words = unitWords();
  useEffect(() => {
    setLive(NOTHING);
    if (!attempt || typeof EventSource === "undefined") return;
    const trail = new Trail(gauge);
    // by a count that nobody sets
    let heard = performance.now();
    const listen = setInterval(() => {
      const ago = performance.now() - heard;
      setLive((l) => (ago > SILENT_MS || l.silent_s > 0 ? { ...l, silent_s: ago > SILENT_MS ? Math.floor(ago / 1000) : 0 } : l));
    }, 500);
    const source = new EventSource(`/api/v1/attempts/${attempt}/live?units=${encodeURIComponent(words)}`);
    source.addEventListener("tick", (e) => trail.add(JSON.parse(e.data)));
    source.addEventListener("view", (e) => {
      const view = JSON.parse(e.data) as LiveView;
      setClock(view.now, view.clock_rate);
      heard = performance.now();
      setLive({ view, trail: trail.points(), connected: true, silent_s: 0 });
    });
    source.addEventListener("changed", () => changed.current());
    source.onerror = () => setLive((l) => ({ ...l, connected: false }));
    return () => {
      clearInterval(listen);
      source.close();
    };
  }, [attempt, gauge, words]);
  return <Context.Provider value={live}>{children}</Context.Provider>;
}
