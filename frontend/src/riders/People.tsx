import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, need, type Rider } from "../api/client";
import { day } from "../ui/days";
import { Handed } from "../ui/Handed";
import { Button, Trouble, Waiting } from "../ui/parts";
import { Sure } from "../ui/Sure";

/** Somebody is grown up in the year after this birthday. */
const ADULT = 18;
const KINDS = { rider: "the rider", guardian: "a guardian" };

/** Who logs in to a rider's own page, and who is invited to. */
export function People({ rider }: { rider: Rider }) {
  const client = useQueryClient();
  const key = ["riders-people", rider.id];
  const path = { rider: rider.id };
  const [open, setOpen] = useState(false);
  const people = useQuery({
    queryKey: key,
    enabled: open,
    queryFn: () => need(api.GET("/api/riders/{rider}/people", { params: { path } })),
  });
  const fresh = { onSuccess: (got: NonNullable<typeof people.data>) => client.setQueryData(key, got) };
  const invite = useMutation({
    mutationFn: (kind: "rider" | "guardian") =>
      need(api.POST("/api/riders/{rider}/people", { params: { path }, body: { kind } })),
    ...fresh,
  });
  const end = useMutation({
    mutationFn: (account: number) =>
      need(api.DELETE("/api/riders/{rider}/people/{account}", { params: { path: { ...path, account } } })),
    ...fresh,
  });
  const withdraw = useMutation({
    mutationFn: (invitation: number) =>
      need(api.DELETE("/api/riders/{rider}/invitations/{invitation}", { params: { path: { ...path, invitation } } })),
    ...fresh,
  });
  const password = useMutation({
    mutationFn: (account: number) =>
      need(api.POST("/api/riders/{rider}/people/{account}", { params: { path: { ...path, account } } })),
  });
  // Whose year is not known may be one.
  const minor = rider.born == null || new Date().getFullYear() - rider.born <= ADULT;
  const error = invite.error ?? end.error ?? withdraw.error ?? password.error;
  return (
    <details className="mt-5 border-t border-line pt-4" onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary className="cursor-pointer font-semibold">Who logs in to {rider.name}’s own page</summary>
      <div className="mt-3 grid gap-3">
        <p className="text-sm text-soft">
          There they read the answers, say when they can practise and what they agree to, and take a copy of what is
          kept.
        </p>
        {people.error && <Trouble error={people.error} again={() => void people.refetch()} />}
        {open && people.isPending && <Waiting what="Looking" />}
        {people.data?.accounts.length === 0 && people.data.invitations.length === 0 && (
          <p className="text-soft">Nobody yet.</p>
        )}
        <ul className="grid gap-2">
          {people.data?.accounts.map((a) => (
            <li key={a.id} className="flex flex-wrap items-center gap-2">
              <span className="mr-auto min-w-0">
                <b className="font-semibold">{a.name || a.username}</b>, {KINDS[a.kind]}
                <br />
                <span className="text-sm text-soft">
                  {a.last_login ? `last here ${day(a.last_login.slice(0, 10))}` : "has not logged in yet"}
                  {!a.speaks &&
                    (a.kind === "guardian"
                      ? " · sees nothing: the rider is grown up"
                      : " · a guardian says yes for them")}
                </span>
              </span>
              <Button onClick={() => password.mutate(a.id)} disabled={password.isPending}>
                New password
              </Button>
              <Sure
                label="End"
                title={`End ${a.name || a.username}’s way to this page?`}
                about="They see nothing of the rider any more, at once. An invitation lets them in again."
                onDo={() => end.mutate(a.id)}
              />
            </li>
          ))}
          {people.data?.invitations.map((i) => (
            <li key={i.id} className="flex flex-wrap items-center gap-2">
              <Handed title={`For ${KINDS[i.kind]}, until ${day(i.expires!.slice(0, 10))}`} path={i.path} />
              <Button onClick={() => withdraw.mutate(i.id)} disabled={withdraw.isPending}>
                Withdraw
              </Button>
            </li>
          ))}
        </ul>
        {password.data && (
          <Handed title="A new password, once" path={password.data.path} onDone={() => password.reset()} />
        )}
        {error && (
          <p role="alert" className="text-bad">
            {error.message}
          </p>
        )}
        <span className="flex flex-wrap gap-2">
          <Button onClick={() => invite.mutate("rider")} disabled={invite.isPending}>
            Invite the rider
          </Button>
          {minor && (
            <Button onClick={() => invite.mutate("guardian")} disabled={invite.isPending}>
              Invite a guardian
            </Button>
          )}
        </span>
      </div>
    </details>
  );
}
