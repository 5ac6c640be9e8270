import { terms } from "./words";

const SORTS = ["number", "title", "planned", "state", "moved"] as const;

/** What an address asks of the list; what it does not hold is not asked. */
export interface PacksSearch {
  q?: string;
  state?: "blocked" | "ready" | "running" | "judged" | "signed";
  owes?: string;
  mine?: boolean;
  blinds?: boolean;
  sort?: (typeof SORTS)[number];
  down?: boolean;
}

/** Reads an address; whatever in it means nothing is left out. */
export function readSearch(raw: Record<string, unknown>): PacksSearch {
  const text = (key: string) => (raw[key] === undefined || raw[key] === "" ? undefined : String(raw[key]));
  const state = text("state");
  const sort = SORTS.find((s) => s === raw.sort);
  const known = terms("state").length === 0 || terms("state").some((t) => t.key === state);
  const search = {
    q: text("q"),
    state: state && known ? (state as PacksSearch["state"]) : undefined,
    owes: text("owes"),
    mine: raw.mine === true || undefined,
    blinds: raw.blinds === true || undefined,
    sort,
    down: raw.down === true || undefined,
  };
  return Object.fromEntries(Object.entries(search).filter(([, v]) => v !== undefined));
}
