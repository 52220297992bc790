import type { QueryClient } from "@tanstack/react-query";
import {
  createRootRouteWithContext,
  createRoute,
  createRouter,
  lazyRouteComponent,
  Outlet,
  redirect,
} from "@tanstack/react-router";

import { session } from "../api/queries";
import { Trouble, Waiting } from "../ui/parts";
import { Frame } from "./Frame";
import { Login } from "./Login";

interface Context {
  client: QueryClient;
}

const root = createRootRouteWithContext<Context>()({ component: Outlet, notFoundComponent: NotFound });

function NotFound() {
  return (
    <div className="grid gap-2 p-6">
      <h1 className="text-xl">There is no page at this address</h1>
      <p>
        <a href="/" className="underline">
          Go to the Desk
        </a>{" "}
        or{" "}
        <a href="/riders" className="underline">
          to the riders
        </a>
        .
      </p>
    </div>
  );
}

const login = createRoute({
  getParentRoute: () => root,
  path: "/login",
  component: Login,
  // Only addresses of this site: what follows the first slash is no host.
  validateSearch: (raw: Record<string, unknown>): { next?: string } =>
    typeof raw.next === "string" && /^\/(?![/\\])/.test(raw.next) ? { next: raw.next } : {},
});

const forgotten = createRoute({
  getParentRoute: () => root,
  path: "/new-password",
  component: lazyRouteComponent(() => import("../account/NewPassword"), "Forgotten"),
});
const newPassword = createRoute({
  getParentRoute: () => root,
  path: "/new-password/$key",
  component: lazyRouteComponent(() => import("../account/NewPassword"), "NewPassword"),
});
const join = createRoute({
  getParentRoute: () => root,
  path: "/join/$token",
  component: lazyRouteComponent(() => import("../account/Join"), "Join"),
});

const newClub = createRoute({
  getParentRoute: () => root,
  path: "/new-club",
  component: lazyRouteComponent(() => import("../account/NewClub"), "NewClub"),
});

const inside = createRoute({
  getParentRoute: () => root,
  id: "inside",
  component: Frame,
  beforeLoad: async ({ context, location }) => {
    const who = await context.client.ensureQueryData(session);
    // Where somebody was logged in on this page, the log-in opens in place and nothing typed is lost.
    if (!who.logged_in && !context.client.getQueryData(["was-in"]))
      // eslint-disable-next-line @typescript-eslint/only-throw-error -- the router's own way to go elsewhere
      throw redirect({ to: "/login", search: location.href === "/" ? {} : { next: location.href } });
    // Riders and guardians have a page of their own; of these they see their account.
    if (who.logged_in && !who.coach && location.pathname !== "/account") window.location.replace("/mine");
    context.client.setQueryData(["was-in"], true);
    if (who.second_factor_first && location.pathname !== "/account")
      // eslint-disable-next-line @typescript-eslint/only-throw-error -- the router's own way to go elsewhere
      throw redirect({ to: "/account" });
  },
});

const desk = createRoute({
  getParentRoute: () => inside,
  path: "/",
  component: lazyRouteComponent(() => import("../desk/Desk"), "Desk"),
});
const riders = createRoute({
  getParentRoute: () => inside,
  path: "/riders",
  component: lazyRouteComponent(() => import("../riders/Riders"), "Riders"),
});
const book = createRoute({
  getParentRoute: () => inside,
  path: "/riders/$rider/book",
  params: {
    parse: (raw: { rider: string }) => ({ rider: Number(raw.rider) }),
    stringify: (kept: { rider: number }) => ({ rider: String(kept.rider) }),
  },
  validateSearch: (raw: Record<string, unknown>): { discipline?: string } =>
    typeof raw.discipline === "string" ? { discipline: raw.discipline } : {},
  component: lazyRouteComponent(() => import("../book/BookPage"), "BookPage"),
});
const number = (raw: { run: string }) => ({ run: Number(raw.run) });
const text = (kept: { run: number }) => ({ run: String(kept.run) });
const bench = createRoute({
  getParentRoute: () => inside,
  path: "/runs/$run",
  params: { parse: number, stringify: text },
  // A moment to open at; and of another clip, where its first one stood when it was left.
  validateSearch: (raw: Record<string, unknown>): { at?: number; first?: number } => ({
    ...(typeof raw.at === "number" && raw.at >= 0 ? { at: raw.at } : {}),
    ...(typeof raw.first === "number" && raw.first >= 0 ? { first: raw.first } : {}),
  }),
  component: lazyRouteComponent(() => import("../bench/BenchPage"), "BenchPage"),
});
const footage = createRoute({
  getParentRoute: () => inside,
  path: "/runs/$run/footage",
  params: { parse: number, stringify: text },
  component: lazyRouteComponent(() => import("../footage/FootagePage"), "FootagePage"),
});
const words = (raw: unknown) =>
  Array.isArray(raw) ? raw.filter((x): x is string => typeof x === "string").slice(0, 20) : [];
const turnSheet = createRoute({
  getParentRoute: () => inside,
  path: "/runs/$run/sheet",
  params: { parse: number, stringify: text },
  // What the cells show, and further columns.
  validateSearch: (raw: Record<string, unknown>): { show?: string; columns?: string[] } => ({
    ...(typeof raw.show === "string" ? { show: raw.show } : {}),
    ...(words(raw.columns).length ? { columns: words(raw.columns) } : {}),
  }),
  component: lazyRouteComponent(() => import("../turnsheet/TurnSheetPage"), "TurnSheetPage"),
});
const map = createRoute({
  getParentRoute: () => inside,
  path: "/runs/$run/map",
  params: { parse: number, stringify: text },
  component: lazyRouteComponent(() => import("../map/MapPage"), "MapPage"),
});
const telling = createRoute({
  getParentRoute: () => inside,
  path: "/runs/$run/telling",
  params: { parse: number, stringify: text },
  component: lazyRouteComponent(() => import("../telling/TellingPage"), "TellingPage"),
});
const script = createRoute({
  getParentRoute: () => inside,
  path: "/runs/$run/script",
  params: { parse: number, stringify: text },
  component: lazyRouteComponent(() => import("../script/ScriptPage"), "ScriptPage"),
});
const film = createRoute({
  getParentRoute: () => inside,
  path: "/films/$film",
  params: {
    parse: (raw: { film: string }) => ({ film: Number(raw.film) }),
    stringify: (kept: { film: number }) => ({ film: String(kept.film) }),
  },
  component: lazyRouteComponent(() => import("../goes/GoesPage"), "GoesPage"),
});
const pair = createRoute({
  getParentRoute: () => inside,
  path: "/pair",
  component: lazyRouteComponent(() => import("../pair/PairPage"), "PairPage"),
  validateSearch: (
    raw: Record<string, unknown>,
  ): { a: number; b: number; ua?: number; ub?: number; mirror?: boolean } => ({
    a: Number(raw.a),
    b: Number(raw.b),
    ...(typeof raw.ua === "number" && typeof raw.ub === "number" ? { ua: raw.ua, ub: raw.ub } : {}),
    ...(raw.mirror === true ? { mirror: true } : {}),
  }),
});
const reckoner = createRoute({
  getParentRoute: () => inside,
  path: "/reckoner",
  // Which calculator, and the run that it is opened for.
  validateSearch: (raw: Record<string, unknown>): { calc?: string; run?: number } => ({
    ...(typeof raw.calc === "string" ? { calc: raw.calc } : {}),
    ...(typeof raw.run === "number" && raw.run > 0 ? { run: raw.run } : {}),
  }),
  component: lazyRouteComponent(() => import("../reckoner/ReckonerPage"), "ReckonerPage"),
});
const together = createRoute({
  getParentRoute: () => inside,
  path: "/together",
  component: lazyRouteComponent(() => import("../together/TogetherPage"), "TogetherPage"),
});
const groups = createRoute({
  getParentRoute: () => inside,
  path: "/groups",
  component: lazyRouteComponent(() => import("../groups/GroupsPage"), "GroupsPage"),
});
const intake = createRoute({
  getParentRoute: () => inside,
  path: "/intake",
  component: lazyRouteComponent(() => import("../intake/IntakePage"), "IntakePage"),
});
const eye = createRoute({
  getParentRoute: () => inside,
  path: "/eye",
  component: lazyRouteComponent(() => import("../eye/EyePage"), "EyePage"),
});
const club = createRoute({
  getParentRoute: () => inside,
  path: "/club",
  component: lazyRouteComponent(() => import("../club/ClubPage"), "ClubPage"),
});
const clubBook = createRoute({
  getParentRoute: () => inside,
  path: "/club/playbook",
  validateSearch: (raw: Record<string, unknown>): { discipline?: string } =>
    typeof raw.discipline === "string" ? { discipline: raw.discipline } : {},
  component: lazyRouteComponent(() => import("../clubbook/ClubBookPage"), "ClubBookPage"),
});
const account = createRoute({
  getParentRoute: () => inside,
  path: "/account",
  component: lazyRouteComponent(() => import("../account/AccountPage"), "AccountPage"),
});
export const makeRouter = (client: QueryClient) =>
  createRouter({
    routeTree: root.addChildren([
      login,
      forgotten,
      newPassword,
      join,
      newClub,
      inside.addChildren([
        desk,
        riders,
        book,
        bench,
        footage,
        turnSheet,
        map,
        telling,
        script,
        film,
        pair,
        reckoner,
        eye,
        together,
        groups,
        intake,
        club,
        clubBook,
        account,
      ]),
    ]),
    context: { client },
    defaultPendingComponent: () => <Waiting what="Loading" />,
    defaultErrorComponent: ({ error, reset }) => <Trouble error={error as Error} again={reset} />,
  });
