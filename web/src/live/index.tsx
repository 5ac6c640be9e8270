import { createContext, type ReactNode, useContext, useEffect, useRef, useState } from "react";
import type { Schema } from "../api/client";
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
}

const NOTHING: Live = { view: null, trail: [], connected: false };
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

/** Follows an attempt over server-sent events. The browser resumes by itself with the last number that it has, so nothing is missed. */
export function LiveProvider({ attempt, gauge, onChanged, children }: Props) {
  const [live, setLive] = useState<Live>(NOTHING);
  const changed = useRef(onChanged);
  changed.current = onChanged;
  useEffect(() => {
    setLive(NOTHING);
    if (!attempt || typeof EventSource === "undefined") return;
    const trail = new Trail(gauge);
    const source = new EventSource(`/api/v1/attempts/${attempt}/live`);
    source.addEventListener("tick", (e) => trail.add(JSON.parse(e.data)));
    source.addEventListener("view", (e) => {
      const view = JSON.parse(e.data) as LiveView;
      setClock(view.now, view.clock_rate);
      setLive({ view, trail: trail.points(), connected: true });
    });
    source.addEventListener("changed", () => changed.current());
    source.onerror = () => setLive((l) => ({ ...l, connected: false }));
    return () => source.close();
  }, [attempt, gauge]);
  return <Context.Provider value={live}>{children}</Context.Provider>;
}
