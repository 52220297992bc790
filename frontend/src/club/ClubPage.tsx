import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import { api, need, type Schemas } from "../api/client";
import { club as clubQuery } from "../api/queries";
import { day } from "../ui/days";
import { Handed } from "../ui/Handed";
import { Button, Select, Trouble, Waiting } from "../ui/parts";
import { Sure } from "../ui/Sure";
import { Done } from "./Done";
import { Failures } from "./Failures";
import { Films } from "./Films";
import { Places } from "./Places";

type Club = Schemas["Club"];
type Role = Club["role"];
const ROLES: Record<Role, string> = {
  owner: "Owner: looks after the club",
  coach: "Coach: judges and answers",
  helper: "Helper: looks and marks",
};

/** The club: its people and their roles, invitations, who did what. */
export function ClubPage() {
  const data = useQuery(clubQuery);
  if (data.error) return <Trouble error={data.error} again={() => void data.refetch()} />;
  if (!data.data) return <Waiting what="Opening the club" />;
  const owner = data.data.role === "owner";
  return (
    <div className="mx-auto grid max-w-4xl gap-4 p-5">
      <h1 className="text-2xl">{data.data.name}</h1>
      <People club={data.data} owner={owner} />
      <section className="grid gap-2 rounded-lg border border-line bg-sheet p-4">
        <h2 className="text-lg">Playbook</h2>
        <p>
          Bands, cues, drills and words of the club’s own, seen beside the original with what they change in past
          verdicts.{" "}
          <Link to="/club/playbook" search={{}} className="font-semibold underline">
            Open the club’s playbook
          </Link>
        </p>
      </section>
      <Places may={data.data.role !== "helper"} />
      {owner && <Films club={data.data} />}
      {owner && <Failures />}
      {owner && <Done />}
    </div>
  );
}

function useClubChange() {
  const client = useQueryClient();
  return (fresh: Club) => client.setQueryData(clubQuery.queryKey, fresh);
}

function People({ club, owner }: { club: Club; owner: boolean }) {
  const keep = useClubChange();
  const [link, setLink] = useState<{ of: string; path: string } | null>(null);
  const change = useMutation({
    mutationFn: ({ id, ...body }: { id: number; role?: Role; left?: boolean }) =>
      need(api.PATCH("/api/club/members/{member}", { params: { path: { member: id } }, body })),
    onSuccess: keep,
  });
  const renew = useMutation({
    mutationFn: async (m: Schemas["Member"]) => ({
      of: `A new password for ${m.name}`,
      path: (await need(api.POST("/api/club/members/{member}/new-password", { params: { path: { member: m.id } } })))
        .path,
    }),
    onSuccess: setLink,
  });
  const asks = useMutation({
    mutationFn: (asks_second_factor: boolean) =>
      need(api.PATCH("/api/club/settings", { body: { asks_second_factor } })),
    onSuccess: keep,
  });
  const error = change.error ?? renew.error ?? asks.error;
  return (
    <section className="grid gap-3 rounded-lg border border-line bg-sheet p-4">
      <h2 className="text-lg">People</h2>
      <ul className="grid gap-2">
        {club.members.map((m) => (
          <li
            key={m.id}
            className="flex flex-wrap items-center gap-3 border-t border-line pt-2 first:border-0 first:pt-0"
          >
            <span className={`min-w-40 flex-1 ${m.left_at ? "text-soft" : ""}`}>
              <b className="font-semibold">{m.name}</b> {m.me && <span className="text-soft">(you)</span>}
              <br />
              <span className="text-sm text-soft">
                {m.left_at
                  ? `left on ${day(m.left_at.slice(0, 10))}`
                  : `${m.username}${m.second_factor ? " · second factor" : ""}${m.last_login ? ` · last here ${new Date(m.last_login).toLocaleDateString()}` : ""}`}
              </span>
            </span>
            {owner && !m.left_at ? (
              <>
                <Select
                  aria-label={`Role of ${m.name}`}
                  className="max-w-64"
                  value={m.role}
                  disabled={change.isPending}
                  onChange={(e) => change.mutate({ id: m.id, role: e.target.value as Role })}
                >
                  {Object.entries(ROLES).map(([role, words]) => (
                    <option key={role} value={role}>
                      {words}
                    </option>
                  ))}
                </Select>
                <Button onClick={() => renew.mutate(m)} disabled={renew.isPending}>
                  New password…
                </Button>
                {!m.me && (
                  <Sure
                    label="Take out"
                    title={`Take ${m.name} out of the club?`}
                    about="They are logged out everywhere at once and cannot log in. What they did stays; they can be let in again."
                    tone="bad"
                    onDo={() => change.mutate({ id: m.id, left: true })}
                  />
                )}
              </>
            ) : owner ? (
              <Button onClick={() => change.mutate({ id: m.id, left: false })}>Let in again</Button>
            ) : (
              <span className="text-soft">{ROLES[m.role].split(":")[0]}</span>
            )}
          </li>
        ))}
      </ul>
      {error && (
        <p role="alert" className="text-bad">
          {error.message}
        </p>
      )}
      {owner && (
        <label className="flex w-fit items-center gap-2">
          <input
            type="checkbox"
            checked={club.asks_second_factor}
            disabled={asks.isPending}
            onChange={(e) => asks.mutate(e.target.checked)}
          />
          Everybody of the club needs a second factor
        </label>
      )}
      {link && <Handed title={link.of} path={link.path} onDone={() => setLink(null)} />}
      {owner && <Invitations club={club} />}
    </section>
  );
}

function Invitations({ club }: { club: Club }) {
  const keep = useClubChange();
  const [role, setRole] = useState<Role>("coach");
  const invite = useMutation({
    mutationFn: () => need(api.POST("/api/club/invitations", { body: { role } })),
    onSuccess: keep,
  });
  const withdraw = useMutation({
    mutationFn: (invitation: number) =>
      need(api.DELETE("/api/club/invitations/{invitation}", { params: { path: { invitation } } })),
    onSuccess: keep,
  });
  const error = invite.error ?? withdraw.error;
  return (
    <div className="grid gap-2 border-t border-line pt-3">
      <h3 className="font-semibold">Invite somebody</h3>
      <span className="flex flex-wrap items-center gap-2">
        <Select
          aria-label="Role of whom you invite"
          className="max-w-64"
          value={role}
          onChange={(e) => setRole(e.target.value as Role)}
        >
          {Object.entries(ROLES).map(([r, words]) => (
            <option key={r} value={r}>
              {words}
            </option>
          ))}
        </Select>
        <Button disabled={invite.isPending} onClick={() => invite.mutate()}>
          Make a link
        </Button>
      </span>
      {club.invitations.map((i) => (
        <div key={i.id} className="grid gap-1">
          <Handed title={`For ${i.role === "owner" ? "an owner" : `a ${i.role}`}`} path={i.path} />
          <span className="flex items-center gap-2 text-sm text-soft">
            For one person, until {day(i.expires.slice(0, 10))}.
            <Button tone="quiet" className="text-sm" onClick={() => withdraw.mutate(i.id)}>
              Withdraw
            </Button>
          </span>
        </div>
      ))}
      {error && (
        <p role="alert" className="text-bad">
          {error.message}
        </p>
      )}
    </div>
  );
}
