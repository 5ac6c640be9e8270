import { createRootRoute, createRoute, createRouter, lazyRouteComponent, Outlet, redirect } from "@tanstack/react-router";
import { type ReactNode, Suspense } from "react";
import { api } from "../api/client";
import { useUsualUnits } from "../api/project";
import { SessionGate } from "../api/session";
import { readSearch } from "../api/packs-search";
import { SignIn } from "../features/sign-in";
import { Failed, NotHere } from "./failed";
import { Shell } from "./shell";
import { TestFrame } from "./test-frame";
import { UnitProvider } from "../units";

const root = createRootRoute({ component: Outlet, notFoundComponent: NotHere, errorComponent: Failed });
/** Figures in the person's units; what they did not choose is the project's. */
function InUnits({ children }: { children: ReactNode }) {
  return <UnitProvider usual={useUsualUnits()}>{children}</UnitProvider>;
}
const Setup = lazyRouteComponent(() => import("../features/setup"), "Setup");
/** Whoever is not signed in signs in, or sets up an installation that is empty. */
function Entrance() {
  const setup = api.useQuery("get", "/api/v1/setup", {}, { staleTime: Number.POSITIVE_INFINITY });
  if (setup.isPending) return null;
  return setup.data?.needed ? (
    <Suspense>
      <Setup demo={setup.data.demo} site={setup.data.site} />
    </Suspense>
  ) : (
    <SignIn />
  );
}
/** All that needs a session. */
const inside = createRoute({
  getParentRoute: () => root,
  id: "inside",
  component: () => (
    <SessionGate signIn={<Entrance />}>
      <InUnits>
        <Shell>
          <Outlet />
        </Shell>
      </InUnits>
    </SessionGate>
  ),
});

const view = (path: string, component: ReturnType<typeof lazyRouteComponent>) => createRoute({ getParentRoute: () => inside, path, component });
/** Open to anyone who holds a record. */
const verify = createRoute({ getParentRoute: () => root, path: "/verify", component: lazyRouteComponent(() => import("../features/verify"), "Verify") });

/** Open to whoever has a one-time link. */
const join = createRoute({ getParentRoute: () => root, path: "/join", component: lazyRouteComponent(() => import("../features/join"), "Join") });

/** Open to whoever has a link to one signature. */
const signing = createRoute({ getParentRoute: () => root, path: "/sign", component: lazyRouteComponent(() => import("../features/signing"), "Signing") });

const today = view(
  "/",
  lazyRouteComponent(() => import("../features/today"), "Today"),
);
const packs = createRoute({
  getParentRoute: () => inside,
  path: "/packs",
  validateSearch: readSearch,
  component: lazyRouteComponent(() => import("../features/packs"), "Packs"),
});
const newPack = view(
  "/packs/new",
  lazyRouteComponent(() => import("../features/packs"), "NewPack"),
);
const quick = view(
  "/quick",
  lazyRouteComponent(() => import("../features/quick-test"), "QuickTest"),
);
const instruments = view(
  "/instruments",
  lazyRouteComponent(() => import("../features/instruments"), "Instruments"),
);

const library = view(
  "/library",
  lazyRouteComponent(() => import("../features/library"), "Library"),
);
const specification = view(
  "/specification",
  lazyRouteComponent(() => import("../features/specification"), "Specification"),
);
const security = view(
  "/security",
  lazyRouteComponent(() => import("../features/security"), "SecurityLog"),
);

const people = view(
  "/people",
  lazyRouteComponent(() => import("../features/people"), "PeopleView"),
);
const account = view(
  "/account",
  lazyRouteComponent(() => import("../features/account"), "Account"),
);

const test = createRoute({ getParentRoute: () => inside, path: "/tests/$id", component: TestFrame });
const step = (path: string, component: ReturnType<typeof lazyRouteComponent>) => createRoute({ getParentRoute: () => test, path, component });

const steps = [
  createRoute({
    getParentRoute: () => test,
    path: "/",
    beforeLoad: ({ params }) => {
      throw redirect({ to: "/tests/$id/derive", params: { id: (params as { id: string }).id } } as never);
    },
  }),
  step(
    "/page",
    lazyRouteComponent(() => import("../features/one-page"), "OnePage"),
  ),
  step(
    "/prove",
    lazyRouteComponent(() => import("../features/prove"), "Prove"),
  ),
  step(
    "/derive",
    lazyRouteComponent(() => import("../features/derive"), "Derive"),
  ),
  step(
    "/bound",
    lazyRouteComponent(() => import("../features/bound"), "Bound"),
  ),
  step(
    "/ready",
    lazyRouteComponent(() => import("../features/ready"), "Ready"),
  ),
  step(
    "/fill",
    lazyRouteComponent(() => import("../features/raise"), "Fill"),
  ),
  step(
    "/raise",
    lazyRouteComponent(() => import("../features/raise"), "Raise"),
  ),
  step(
    "/read",
    lazyRouteComponent(() => import("../features/read-gauge"), "ReadGauge"),
  ),
  step(
    "/hold",
    lazyRouteComponent(() => import("../features/hold"), "Hold"),
  ),
  step(
    "/judge",
    lazyRouteComponent(() => import("../features/judge"), "Judge"),
  ),
  step(
    "/restore",
    lazyRouteComponent(() => import("../features/restore"), "Restore"),
  ),
  step(
    "/sign",
    lazyRouteComponent(() => import("../features/sign"), "Sign"),
  ),
];

export const router = createRouter({
  routeTree: root.addChildren([
    verify,
    join,
    signing,
    inside.addChildren([today, packs, newPack, quick, instruments, library, specification, security, people, account, test.addChildren(steps)]),
  ]),
  defaultPreload: "intent",
});
