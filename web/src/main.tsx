import "./ui/tokens.css";
import "./ui/print.css";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { RouterProvider } from "@tanstack/react-router";
import { setNonce } from "get-nonce";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { again } from "./api/client";
import { sweepTyping } from "./api/typing";
import { router } from "./app/router";
import { applyTheme } from "./ui";

applyTheme();
sweepTyping();
// keeps the program on the device: a page then opens where the server cannot be reached
if (import.meta.env.PROD) void navigator.serviceWorker?.register("/worker.js", { scope: "/" }).catch(() => undefined);
// styles that a dialog adds carry the page's own nonce, without which the policy of the page refuses them
const nonce = document.querySelector<HTMLMetaElement>("meta[name=style-nonce]")?.content;
if (nonce) setNonce(nonce);
const queries = new QueryClient({
  defaultOptions: { queries: { staleTime: 5_000, retry: again, retryDelay: (failures) => 1_500 * (failures + 1), refetchOnWindowFocus: true } },
});
// the test that visits every view reads the router's own list
Object.assign(window, { zeroLeakRoutes: Object.keys(router.routesByPath) });

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </StrictMode>,
  );
}
