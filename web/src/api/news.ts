import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import type { Schema } from "./client";

/** Lists are asked for anew at most this often, ms. */
const AT_MOST = 700;

/** Follows the lists: what changed is asked for anew. The browser resumes by itself with the last number that it has. */
export function useNews(on: boolean) {
  const queries = useQueryClient();
  useEffect(() => {
    if (!on || typeof EventSource === "undefined") return;
    const source = new EventSource("/api/v1/news");
    let waiting: ReturnType<typeof setTimeout> | undefined;
    const packs = new Set<string>();
    const ask = () => {
      waiting = undefined;
      const changed = new Set(packs);
      packs.clear();
      void queries.invalidateQueries({
        predicate: ({ queryKey: [, path, of] }) =>
          path === "/api/v1/today" ||
          path === "/api/v1/packs" ||
          (path === "/api/v1/packs/{id}" && changed.has((of as { params?: { path?: { id?: string } } })?.params?.path?.id ?? "")),
      });
    };
    source.addEventListener("lists", (e) => {
      for (const id of (JSON.parse(e.data) as Schema["ListNews"]).packs) packs.add(id);
      waiting ??= setTimeout(ask, AT_MOST);
    });
    return () => {
      clearTimeout(waiting);
      source.close();
    };
  }, [queries, on]);
}
