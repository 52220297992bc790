import { queryOptions, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";

import { account, api, need, type Schemas } from "../api/client";
import { session } from "../api/queries";
import { Handed } from "../ui/Handed";
import { Button, Trouble, Waiting } from "../ui/parts";
import { PasswordField } from "./PasswordField";
import { SecondFactor } from "./SecondFactor";

/** A coach's own account: password, second factor, where they are logged in. */
export function AccountPage() {
  const who = useQuery(session).data;
  return (
    <div className="mx-auto grid max-w-3xl gap-4 p-5">
      <h1 className="text-2xl">
        {who?.coach || who?.name} <span className="text-base text-soft">· {who?.role}</span>
      </h1>
      {who?.second_factor_first && (
        <p role="alert" className="rounded border border-warn px-3 py-2">
          {who.club} asks for a second factor. Set one up here, then go on to the Desk.
        </p>
      )}
      <Part title="Second factor">
        <SecondFactor on={who?.second_factor ?? false} />
      </Part>
      {who?.coach && !who.second_factor_first && (
        <Part title="Calendar">
          <Subscription />
        </Part>
      )}
      <Part title="Password">
        <ChangePassword />
      </Part>
      <Part title="Where you are logged in">
        <Sessions />
      </Part>
    </div>
  );
}

function Part({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section className="grid gap-3 rounded-lg border border-line bg-sheet p-4">
      <h2 className="text-lg">{title}</h2>
      {children}
    </section>
  );
}

const CALENDAR = queryOptions({
  queryKey: ["calendar-link"],
  queryFn: () => need(api.GET("/api/desk/calendar")),
});

/** The private address by which a calendar shows what is due and who films again. */
function Subscription() {
  const client = useQueryClient();
  const link = useQuery(CALENDAR);
  const keep = (fresh: Schemas["CalendarLink"]) => client.setQueryData(CALENDAR.queryKey, fresh);
  const make = useMutation({ mutationFn: () => need(api.POST("/api/desk/calendar")), onSuccess: keep });
  const withdraw = useMutation({ mutationFn: () => need(api.DELETE("/api/desk/calendar")), onSuccess: keep });
  const error = link.error ?? make.error ?? withdraw.error;
  return (
    <>
      <p className="text-soft">
        Answers that are due, riders’ sessions and the days on which they film again, in your own calendar. Subscribe to
        this address there; it names riders, so keep it to yourself.
      </p>
      {link.data?.path && <Handed title="Your address" path={link.data.path} />}
      <div className="flex gap-2">
        {link.data && (
          <Button disabled={make.isPending} onClick={() => make.mutate()}>
            {link.data.path ? "Another address in its place" : "Make an address"}
          </Button>
        )}
        {link.data?.path && (
          <Button disabled={withdraw.isPending} onClick={() => withdraw.mutate()}>
            Withdraw it
          </Button>
        )}
      </div>
      {error && (
        <p role="alert" className="text-bad">
          {error.message}
        </p>
      )}
    </>
  );
}

function ChangePassword() {
  const client = useQueryClient();
  const [was, setWas] = useState("");
  const [next, setNext] = useState("");
  const change = useMutation({
    mutationFn: () => account("POST", "/account/password/change", { current_password: was, new_password: next }),
    onSuccess: async () => {
      setWas("");
      setNext("");
      await client.invalidateQueries({ queryKey: session.queryKey });
    },
  });
  return (
    <form
      className="grid max-w-sm gap-3"
      onSubmit={(e) => {
        e.preventDefault();
        change.mutate();
      }}
    >
      <PasswordField label="Password until now" known value={was} onChange={setWas} />
      <PasswordField label="New password" error={change.error?.message} value={next} onChange={setNext} />
      {change.isSuccess && !was && (
        <p role="status" className="text-soft">
          It is changed.
        </p>
      )}
      <Button type="submit" className="justify-self-start" disabled={change.isPending}>
        Change it
      </Button>
    </form>
  );
}

interface Session {
  id: number;
  user_agent: string;
  ip: string;
  last_seen_at: number;
  is_current: boolean;
}

function Sessions() {
  const client = useQueryClient();
  const all = useQuery({
    queryKey: ["sessions"],
    queryFn: async () => (await account<Session[]>("GET", "/auth/sessions")).data,
  });
  const end = useMutation({
    mutationFn: (sessions: number[]) => account("DELETE", "/auth/sessions", { sessions }),
    onSettled: () => client.invalidateQueries({ queryKey: ["sessions"] }),
  });
  if (all.error) return <Trouble error={all.error} again={() => void all.refetch()} />;
  if (!all.data) return <Waiting what="Looking" />;
  const others = all.data.filter((s) => !s.is_current);
  return (
    <>
      <ul className="grid gap-2">
        {all.data.map((s) => (
          <li key={s.id} className="flex flex-wrap items-center gap-3">
            <span className="min-w-0 flex-1">
              {browser(s.user_agent)} <span className="text-soft">from {s.ip}</span>
              <br />
              <span className="text-sm text-soft">
                {s.is_current ? "this one" : `last on ${new Date(1000 * s.last_seen_at).toLocaleString()}`}
              </span>
            </span>
            {!s.is_current && (
              <Button disabled={end.isPending} onClick={() => end.mutate([s.id])}>
                End it
              </Button>
            )}
          </li>
        ))}
      </ul>
      {end.error && (
        <p role="alert" className="text-bad">
          {end.error.message}
        </p>
      )}
      {others.length > 1 && (
        <Button
          className="justify-self-start"
          disabled={end.isPending}
          onClick={() => end.mutate(others.map((s) => s.id))}
        >
          End all others
        </Button>
      )}
    </>
  );
}

/** What a browser calls itself, as far as a reader wants to know. */
function browser(agent: string): string {
  const name = /(Firefox|Edg|OPR|Chrome|Safari)/.exec(agent)?.[1] ?? "A program";
  const system = /(Android|iPhone|iPad|Windows|Mac OS|Linux)/.exec(agent)?.[1];
  return `${name.replace("Edg", "Edge").replace("OPR", "Opera")}${system ? ` on ${system}` : ""}`;
}
