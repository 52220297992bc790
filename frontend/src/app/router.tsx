import type { QueryClient } from "@tanstack/react-query";
import { createRootRouteWithContext, createRoute, createRouter, lazyRouteComponent, Outlet, redirect } from "@tanstack/react-router";

import { session } from "../api/queries";
import { Trouble, Waiting } from "../ui/parts";
import { Frame } from "./Frame";
import { Login } from "./Login";

interface Context {
  client: QueryClient;
}

const root = createRootRouteWithContext<Context>()({ component: Outlet, notFoundComponent: NotFound });

function NotFound() {
  return <Trouble error={new Error("There is no page at this address. Go back to the Desk.")} again={() => location.assign("/")} />;
}

const login = createRoute({ getParentRoute: () => root, path: "/login", component: Login });

const inside = createRoute({
  getParentRoute: () => root,
  id: "inside",
  component: Frame,
  beforeLoad: async ({ context }) => {
    const who = await context.client.ensureQueryData(session);
    if (!who.logged_in) throw redirect({ to: "/login" });
  },
});

const desk = createRoute({ getParentRoute: () => inside, path: "/", component: lazyRouteComponent(() => import("../desk/Desk"), "Desk") });
const riders = createRoute({ getParentRoute: () => inside, path: "/riders", component: lazyRouteComponent(() => import("../riders/Riders"), "Riders") });
const number = (raw: { run: string }) => ({ run: Number(raw.run) });
const text = (kept: { run: number }) => ({ run: String(kept.run) });
const bench = createRoute({
  getParentRoute: () => inside,
  path: "/runs/$run",
  params: { parse: number, stringify: text },
  component: lazyRouteComponent(() => import("../bench/BenchPage"), "BenchPage"),
});
const footage = createRoute({
  getParentRoute: () => inside,
  path: "/runs/$run/footage",
  params: { parse: number, stringify: text },
  component: lazyRouteComponent(() => import("../footage/FootagePage"), "FootagePage"),
});
const script = createRoute({
  getParentRoute: () => inside,
  path: "/runs/$run/script",
  params: { parse: number, stringify: text },
  component: lazyRouteComponent(() => import("../script/ScriptPage"), "ScriptPage"),
});
const shared = createRoute({ getParentRoute: () => root, path: "/s/$token", component: lazyRouteComponent(() => import("../shared/SharedPage"), "SharedPage") });

export const makeRouter = (client: QueryClient) =>
  createRouter({
    routeTree: root.addChildren([login, shared, inside.addChildren([desk, riders, bench, footage, script])]),
    context: { client },
    defaultPendingComponent: () => <Waiting what="Loading" />,
    defaultErrorComponent: ({ error, reset }) => <Trouble error={error as Error} again={reset} />,
  });
