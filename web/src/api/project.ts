import { useLayoutEffect, useSyncExternalStore } from "react";
import type { Schema } from "./client";
import { useMe } from "./session";
import { setZone } from "./zone";

export type MyProject = Schema["MyProject"];
/** Zone and units in which a page is read. */
export type InHand = { zone: string; units: Schema["Units"] };

const KEY = "project";
let chosen = localStorage.getItem(KEY) ?? "";
let hand: InHand | null = null;
const listeners = new Set<() => void>();

function subscribe(listener: () => void) {
  listeners.add(listener);
  return () => void listeners.delete(listener);
}

function tell() {
  for (const listener of listeners) listener();
}

/** Chooses the project that lists are of; none for all. Kept on this device. */
export function chooseProject(id: string) {
  chosen = id;
  if (id) localStorage.setItem(KEY, id);
  else localStorage.removeItem(KEY);
  tell();
}

/** The project that this person chose; none where they look at all, or have only one. */
export function useChosen(): MyProject | undefined {
  const { projects } = useMe();
  const id = useSyncExternalStore(subscribe, () => chosen);
  return projects.length > 1 ? projects.find((p) => p.id === id) : undefined;
}

/** The project that a page is about which needs one: the chosen one, else the first. */
export function useProject(): MyProject | undefined {
  const { projects } = useMe();
  return useChosen() ?? projects[0];
}

/** Whether this person has one of these roles in any project. */
export function useRole(...roles: MyProject["role"][]): boolean {
  return useMe().projects.some((p) => roles.includes(p.role));
}

/** Reads a page in the zone and the units of a project, for as long as it is open. */
export function useInHand(project: InHand | undefined) {
  const { zone } = useMe();
  // before anything of the page is drawn
  setZone(project?.zone ?? zone);
  useLayoutEffect(() => {
    hand = project ?? null;
    tell();
    return () => {
      hand = null;
      setZone(zone);
      tell();
    };
  }, [project, zone]);
}

/** Units of what is in hand, else those of the chosen project, of the only one, or of the site. */
export function useUsualUnits(): Schema["Units"] {
  const me = useMe();
  const of = useSyncExternalStore(subscribe, () => hand);
  const project = useChosen() ?? (me.projects.length === 1 ? me.projects[0] : undefined);
  return of?.units ?? project?.units ?? me.units;
}
