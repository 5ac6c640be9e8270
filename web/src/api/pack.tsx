import { useQueryClient } from "@tanstack/react-query";
import { createContext, useContext } from "react";
import { api, type GridRow, http, newId, type Pack, type Plan, UNITS_HEADER } from "./client";

const Context = createContext<Pack | null>(null);
export const PackProvider = Context.Provider;

/** The test that the screens of the spine are about. */
export function usePack(): Pack {
  const pack = useContext(Context);
  if (!pack) throw new Error("used outside a test");
  return pack;
}

/** The attempt under way, or the last one. */
export function useAttempt() {
  return usePack().attempts.at(-1);
}

export function packOptions(id: string) {
  return api.queryOptions("get", "/api/v1/packs/{id}", { params: { path: { id } } });
}

/** Everything that changes a test; each fails with the server's problem. */
export function usePackActions() {
  const pack = usePack();
  const queries = useQueryClient();
  const key = packOptions(pack.id).queryKey;
  const settle = (next: Pack) => {
    queries.setQueryData(key, next);
    void queries.invalidateQueries({ predicate: (q) => q.queryKey[1] !== "/api/v1/session" && q.queryKey[1] !== "/api/v1/packs/{id}" });
  };
  const refresh = () => queries.invalidateQueries({ predicate: (q) => q.queryKey[1] !== "/api/v1/session" });
  // the version on which the typing began, never simply the newest: else somebody's change would be overwritten unseen
  const ifMatch = (version: number) => ({ "if-match": `"v${version}"` });
  const path = { id: pack.id };
  return {
    refresh,
    /** The test as it is now, when somebody else was faster. */
    newest: () => queries.fetchQuery({ ...packOptions(pack.id), staleTime: 0 }),
    async plan(plan: Plan, title: string, version: number) {
      const { data, error } = await http.PUT("/api/v1/packs/{id}/plan", { params: { path, header: ifMatch(version) }, body: { title, plan } });
      if (!data) throw error;
      settle(data);
      return data;
    },
    /** Stores the rows; a bare pressure is in `unit`, which stood beside its column. */
    async parts(rows: GridRow[], unit: string, version: number) {
      const { data, error } = await http.PUT("/api/v1/packs/{id}/parts", {
        params: { path, header: ifMatch(version) },
        headers: { [UNITS_HEADER]: unit },
        body: { rows },
      });
      if (!data) throw error;
      settle(data);
    },
    async release(reason: string, releasedAt: string | null) {
      const { data, error } = await http.PUT("/api/v1/packs/{id}/attempts/{attempt}", {
        params: { path: { id: pack.id, attempt: newId() } },
        body: { supersedes_reason: reason, released_at: releasedAt },
      });
      if (!data) throw error;
      settle(data);
    },
  };
}
