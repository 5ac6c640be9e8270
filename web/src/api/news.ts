import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import type { Schema } from "./client";
import { heard, silent, watchReach } from "./reach";

/** Lists are asked for anew at most this often, ms. */
const AT_MOST = 700;

/** A stream that was refused is opened anew after so long, ms; one that broke is opened by the browser itself. */
const ANEW = 3_000;

/** Follows the lists: what changed is asked for anew. The browser resumes by itself with the last number that it has. */
export function useNews(on: boolean) {
  const queries = useQueryClient();
  useEffect(() => {
    if (!on || typeof EventSource === "undefined") return;
    let source: EventSource;
    let anew: ReturnType<typeof setTimeout> | undefined;
    let broken = false;
    const unwatch = watchReach();
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
    const listen = () => {
      source = new EventSource("/api/v1/news");
      source.addEventListener("here", () => {
        heard();
        if (!broken) return;
        // what was missed is asked for at once
        broken = false;
        void queries.invalidateQueries();
      });
      source.addEventListener("lists", (e) => {
        heard();
        for (const id of (JSON.parse(e.data) as Schema["ListNews"]).packs) packs.add(id);
        waiting ??= setTimeout(ask, AT_MOST);
      });
      source.onerror = () => {
        broken = true;
        if (source.readyState !== EventSource.CLOSED) return silent();
        // the server answered and said no: whoever is signed out is told so by the session
        void queries.invalidateQueries({ predicate: ({ queryKey: [, path] }) => path === "/api/v1/session" });
        anew = setTimeout(listen, ANEW);
      };
    };
    listen();
    return () => {
      unwatch();
      clearTimeout(waiting);
      clearTimeout(anew);
      source.close();
    };
  }, [queries, on]);
}
