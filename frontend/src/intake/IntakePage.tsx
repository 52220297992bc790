import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import { api, need, Problem, type Schemas } from "../api/client";
import { disciplines, intakes, riders, senders, session } from "../api/queries";
import { RiderOptions } from "../desk/RiderField";
import { moment } from "../ui/days";
import { Button, Select, Trouble, Waiting } from "../ui/parts";
import { Sure } from "../ui/Sure";
import { Links } from "./Links";

type Held = Schemas["Held"];

/** Clips that riders send themselves: who sent what, and the links they send by. */
export function IntakePage() {
  const held = useQuery(senders);
  const links = useQuery(intakes);
  const books = useQuery(disciplines);
  const may = useQuery(session).data?.role !== "helper";
  const error = held.error ?? links.error ?? books.error;
  if (error) return <Trouble error={error} again={() => void Promise.all([held.refetch(), links.refetch()])} />;
  if (!held.data || !links.data || !books.data) return <Waiting what="Looking what was sent in" />;
  return (
    <div className="mx-auto grid max-w-4xl gap-6 p-5">
      <h1 className="text-2xl">Sent in</h1>
      <section className="grid gap-2">
        <h2 className="text-lg">Who is it?</h2>
        {held.data.count === 0 ? (
          <p className="rounded border border-dashed border-line p-6 text-center text-soft">
            Nobody unknown has sent a clip. Clips of riders you know go straight to the{" "}
            <Link to="/" className="underline">
              Desk
            </Link>
            .
          </p>
        ) : (
          <>
            <p className="text-soft">
              These clips are kept and were looked at; they are judged once you say whose they are. The sender’s next
              clips then go straight to the Desk.
            </p>
            <ul className="grid gap-3">
              {held.data.results.map((h) => (
                <li key={h.id} className="rounded-lg border border-line bg-sheet p-4">
                  <Sender held={h} may={may} />
                </li>
              ))}
            </ul>
            {held.data.count > held.data.results.length && (
              <p className="text-soft">{held.data.count - held.data.results.length} more appear as these are done.</p>
            )}
          </>
        )}
      </section>
      <Links links={links.data} books={books.data} may={may} />
    </div>
  );
}

function Sender({ held, may }: { held: Held; may: boolean }) {
  const client = useQueryClient();
  const people = useQuery({ ...riders, enabled: may });
  const [picked, setPicked] = useState("");
  const fresh = () =>
    Promise.all(["senders", "runs", "riders", "intakes"].map((k) => client.invalidateQueries({ queryKey: [k] })));
  const path = { path: { id: held.id } };
  const say = useMutation({
    mutationFn: ({ rider, stance }: { rider: number | null; stance?: "regular" | "goofy" }) =>
      need(api.POST("/api/senders/{id}/let_in", { params: path, body: { rider, stance: stance ?? "" } })),
    onSuccess: fresh,
  });
  const away = useMutation({
    mutationFn: () => need(api.POST("/api/senders/{id}/turn_away", { params: path })),
    onSuccess: fresh,
  });
  const error = say.error ?? away.error;
  const pending = say.isPending || away.isPending;
  return (
    <div className="grid gap-2">
      <p>
        <b className="text-lg">{held.name}</b>{" "}
        <span className="text-soft">
          {[held.born && `born ${held.born}`, held.level, held.stance].filter(Boolean).join(" · ")} · by “{held.title}”,{" "}
          {moment(held.at)}
        </span>
      </p>
      <p className="text-sm text-soft">
        {held.guardian ? `${held.agreed} agreed as guardian.` : `${held.agreed} agreed.`}
      </p>
      {held.why && <p className="text-bad">{held.why}</p>}
      <ul className="grid gap-1">
        {held.clips.map((c) => (
          <li key={c.id}>
            {c.name}
            {c.intention_text && ` · trying to: ${c.intention_text}`}
            {c.state === "looking" && <span className="text-soft"> · being looked at</span>}
            {(c.state === "unreadable" || c.state === "refused") && <span className="text-bad"> · {c.problem}</span>}
            {c.advice.length > 0 && (
              <span className="block text-sm text-soft">Told the sender: {c.advice.join(" ")}</span>
            )}
          </li>
        ))}
      </ul>
      {may && (
        <div className="flex flex-wrap items-center gap-2">
          {held.alike.map((r) => (
            <Button key={r.id} tone="main" disabled={pending} onClick={() => say.mutate({ rider: r.id })}>
              It is {r.name}
              {r.number != null && ` (${r.number})`}
            </Button>
          ))}
          <Select
            aria-label={`Which rider ${held.name} is`}
            className="max-w-52"
            value={picked}
            disabled={pending}
            onChange={(e) => setPicked(e.target.value)}
          >
            <RiderOptions people={people.data?.results} />
          </Select>
          <Button disabled={!picked || pending} onClick={() => say.mutate({ rider: Number(picked) })}>
            It is this rider
          </Button>
          <Button disabled={pending} onClick={() => say.mutate({ rider: null })}>
            A new rider
          </Button>
          <Sure
            label="Take none"
            tone="bad"
            title={`Take no clips of ${held.name}?`}
            about="What was sent is erased, and the sender’s page says that the club did not take it."
            disabled={pending}
            onDo={() => away.mutate()}
          />
        </div>
      )}
      {error && (
        <p role="alert" className="text-sm text-bad">
          {error.message}
        </p>
      )}
      {say.error instanceof Problem && say.error.status === 409 && held.stance && (
        <div className="flex flex-wrap gap-2">
          {(["regular", "goofy"] as const).map((stance) => (
            <Button
              key={stance}
              disabled={pending}
              onClick={() => say.mutate({ rider: say.variables?.rider ?? null, stance })}
            >
              {stance === "regular" ? "Left foot in front (regular)" : "Right foot in front (goofy)"}
            </Button>
          ))}
        </div>
      )}
    </div>
  );
}
