import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, Outlet, useNavigate } from "@tanstack/react-router";
import { LogOut, Moon, Sun } from "lucide-react";
import { useEffect, useState } from "react";

import { api, need, onLoggedOut } from "../api/client";
import { session } from "../api/queries";
import { Dialog } from "../ui/Dialog";
import { UnitsContext, type Units } from "../ui/units";
import { LoginForm } from "./LoginForm";
import { applyLook, currentLook } from "./look";

/** The strip at the top of every page of the coach. */
export function Frame() {
  const who = useQuery(session).data;
  const client = useQueryClient();
  const go = useNavigate();
  const [look, setLook] = useState(currentLook);
  useEffect(() => onLoggedOut(() => void client.invalidateQueries({ queryKey: session.queryKey })), [client]);
  const units = who?.units ?? "metric";
  const choose = async (next: Units) => {
    client.setQueryData(session.queryKey, await need(api.PATCH("/api/session", { body: { units: next } })));
    await client.invalidateQueries({ predicate: (q) => q.queryKey[0] !== "session" });
  };
  const leave = async () => {
    await need(api.DELETE("/api/session"));
    client.clear();
    await go({ to: "/login", search: {} });
  };
  const icon = "grid size-9 place-items-center rounded hover:bg-tint max-sm:first-of-type:ml-auto";
  return (
    <div className="flex min-h-screen flex-col">
      <a href="#main" className="sr-only focus:not-sr-only focus:absolute focus:z-50 focus:bg-sheet focus:p-2">
        Skip to content
      </a>
      <header className="no-print flex items-center gap-2 border-b border-line bg-sheet px-3 py-1.5 sm:gap-4 sm:px-4">
        <Link to="/" className="flex items-center gap-2 text-lg font-bold">
          <img src="/mark.svg" alt="" className="size-6" /> <span className="max-sm:sr-only">Proklisis</span>
        </Link>
        {who?.logged_in && !who.coach ? (
          <a href="/mine" className="font-semibold underline">
            Back to your page
          </a>
        ) : (
          <Tabs />
        )}
        <span className="ml-auto flex min-w-0 gap-1 truncate text-soft max-sm:hidden">
          <Link to="/account" className="truncate hover:underline">
            {who?.coach || who?.name}
          </Link>
          {who?.coach && (
            <>
              ·
              <Link to="/club" className="truncate hover:underline">
                {who.club}
              </Link>
            </>
          )}
        </span>
        <button
          type="button"
          className={icon}
          aria-label={look === "day" ? "Night look" : "Day look"}
          onClick={() => setLook(applyLook(look === "day" ? "night" : "day"))}
        >
          {look === "day" ? <Moon aria-hidden className="size-4.5" /> : <Sun aria-hidden className="size-4.5" />}
        </button>
        {who?.coach && (
          <button
            type="button"
            className={icon}
            aria-label={units === "metric" ? "Show feet and miles" : "Show metres and kilometres"}
            title={
              units === "metric"
                ? "Lengths are in metres. Show feet and miles"
                : "Lengths are in feet. Show metres and kilometres"
            }
            onClick={() => void choose(units === "metric" ? "imperial" : "metric")}
          >
            <span aria-hidden className="text-sm font-semibold">
              {units === "metric" ? "m" : "ft"}
            </span>
          </button>
        )}
        <button type="button" className={icon} aria-label="Log out" onClick={() => void leave()}>
          <LogOut aria-hidden className="size-4.5" />
        </button>
      </header>
      <main id="main" className="flex-1">
        <UnitsContext.Provider value={units}>
          <Outlet />
        </UnitsContext.Provider>
      </main>
      <Dialog
        title="Log in to go on"
        about="Your session has ended. What you typed is still here."
        open={who?.logged_in === false}
        onOpen={() => undefined}
      >
        <LoginForm onIn={() => client.invalidateQueries({ predicate: (q) => q.queryKey[0] !== "session" })} />
      </Dialog>
    </div>
  );
}

/** The ways between the coach's pages. */
function Tabs() {
  const tab = "rounded px-2.5 py-1 font-semibold hover:bg-tint data-[status=active]:bg-tint max-sm:px-1.5";
  return (
    <nav aria-label="Main" className="flex gap-1 max-sm:gap-0 max-sm:overflow-x-auto">
      <Link to="/" className={tab} activeOptions={{ exact: true }}>
        Desk
      </Link>
      <Link to="/riders" className={tab}>
        Riders
      </Link>
      <Link to="/reckoner" className={tab}>
        Reckoner
      </Link>
      <Link to="/eye" className={tab}>
        Eye
      </Link>
    </nav>
  );
}
