import "./ui/tokens.css";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { RouterProvider } from "@tanstack/react-router";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { router } from "./app/router";
import { applyTheme } from "./ui";
import { UnitProvider } from "./units/pressure";

applyTheme();
const queries = new QueryClient({
  defaultOptions: { queries: { staleTime: 5_000, retry: (failures, error) => failures < 1 && error instanceof TypeError, refetchOnWindowFocus: true } },
});
// the test that visits every view reads the router's own list
Object.assign(window, { zeroLeakRoutes: Object.keys(router.routesByPath) });

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <UnitProvider>
          <RouterProvider router={router} />
        </UnitProvider>
      </QueryClientProvider>
    </StrictMode>,
  );
}
