import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { createMemoryHistory, createRootRoute, createRoute, createRouter, RouterProvider } from "@tanstack/react-router";
import { render } from "@testing-library/react";
import type { ReactNode } from "react";
import { vi } from "vitest";
import type { Pack } from "../src/api/client";
import { PackProvider } from "../src/api/pack";
import { type Me, MeProvider } from "../src/api/session";
import { UnitProvider } from "../src/units";
import { hold } from "./demo";

/** What jsdom lacks. */
class Watch {
  observe() {}
  unobserve() {}
  disconnect() {}
}
vi.stubGlobal("ResizeObserver", Watch);
vi.stubGlobal("scrollTo", () => {});
Element.prototype.scrollTo = () => {};
HTMLCanvasElement.prototype.getContext = () => null;

const UNITS = { pressure: "bar", temperature: "celsius", length: "metre", volume: "litre" } as const;
/** An engineer of one project. */
export const ME: Me = {
  sign_in: "engineer",
  administrator: false,
  second_factor: false,
  owes_factor: false,
  role_words: "engineer",
  projects: [{ id: "p", name: "Power house", role: "engineer", zone: "UTC", units: UNITS, may_make_pack: true, may_make_quick: true }],
  token: "t",
  site: "Merrowick Works",
  zone: "UTC",
  units: UNITS,
  fingerprint: "",
  now: "2026-06-01T08:00:00Z",
  clock_rate: 1,
  clock_by_hand: false,
};

/** A part of a screen about a test, with all that stands around it in the application. */
export async function screen(part: ReactNode, pack: Pack) {
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  const root = createRootRoute({ component: () => <PackProvider value={pack}>{part}</PackProvider> });
  const any = createRoute({ getParentRoute: () => root, path: "$", component: () => null });
  const router = createRouter({ routeTree: root.addChildren([any]), history: createMemoryHistory({ initialEntries: ["/"] }) });
  await router.load();
  return render(
    <QueryClientProvider client={queries}>
      <MeProvider value={ME}>
        <UnitProvider>
          <RouterProvider router={router as never} />
        </UnitProvider>
      </MeProvider>
    </QueryClientProvider>,
  );
}

export interface Sent {
  method: string;
  path: string;
  headers: Headers;
  body: unknown;
}

type Answer = { status?: number; body?: unknown } | "unreachable";

/** Stands in for the server: answers in turn, and keeps what was sent. Reads are answered with the pack. */
export function server(pack: Pack, ...answers: Answer[]): Sent[] {
  const sent: Sent[] = [];
  vi.stubGlobal("fetch", async (input: Request | URL, init?: RequestInit) => {
    const request = input instanceof Request ? input : new Request(input, init);
    const path = new URL(request.url).pathname;
    if (request.method === "GET") {
      const list = path.endsWith("/instruments") || path.endsWith("/packs");
      return Response.json(
        path.endsWith("/hold")
          ? hold()
          : path.endsWith("/promise")
            ? { promise: null, missing: "" }
            : path.includes("/packs/")
              ? pack
              : path.endsWith("/library")
                ? { materials: [], people: [], part_kinds: [], columns: [], bases: [], methods: { method: [], reason: [] } }
                : list
                  ? []
                  : {},
      );
    }
    const text = await request.text();
    const json = request.headers.get("content-type")?.includes("json");
    sent.push({ method: request.method, path, headers: request.headers, body: json ? JSON.parse(text) : text });
    const answer = path.endsWith("/check") ? { body: { rows: [], ignored_columns: [], good: 0 } } : (answers.shift() ?? {});
    if (answer === "unreachable") throw new TypeError("fetch failed");
    const status = answer.status ?? (answer.body === undefined ? 204 : 200);
    return new Response(answer.body === undefined ? null : JSON.stringify(answer.body), { status, headers: { "content-type": "application/json" } });
  });
  return sent;
}

/** A problem as the server sends it. */
export const problem = (status: number, detail: string, field?: string) => ({ status, body: { type: "/problems/x", title: "x", status, detail, field } });
