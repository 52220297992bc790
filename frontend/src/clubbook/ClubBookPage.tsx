import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { ChevronLeft } from "lucide-react";
import { useState } from "react";

import { api, need } from "../api/client";
import { clubBook, disciplines, session } from "../api/queries";
import { day } from "../ui/days";
import { DisciplineOptions } from "../ui/DisciplineOptions";
import { useDraft, useLeaving } from "../ui/drafts";
import { Button, Field, Input, Select, Trouble, Waiting } from "../ui/parts";
import { Sure } from "../ui/Sure";
import { faultsOf, isChanged, type Prepared, put, type Stands } from "./changes";
import { Effect } from "./Effect";
import { OneFault } from "./OneFault";

/** The club's own playbook of a discipline beside the original. */
export function ClubBookPage() {
  const { discipline = "alpine_carve" } = useSearch({ from: "/inside/club/playbook" });
  const go = useNavigate();
  const books = useQuery(disciplines).data;
  const stands = useQuery(clubBook(discipline));
  const owner = useQuery(session).data?.role === "owner";
  return (
    <div className="mx-auto grid max-w-4xl gap-4 p-5">
      <div className="flex flex-wrap items-center gap-3">
        <Link to="/club" aria-label="Back to the club" className="grid size-9 place-items-center rounded hover:bg-tint">
          <ChevronLeft aria-hidden className="size-5" />
        </Link>
        <h1 className="mr-auto text-2xl">The club’s playbook</h1>
        <Select
          aria-label="Discipline"
          className="max-w-60"
          value={discipline}
          onChange={(e) => void go({ to: "/club/playbook", search: { discipline: e.target.value } })}
        >
          <DisciplineOptions books={books} />
        </Select>
      </div>
      {stands.error ? (
        <Trouble error={stands.error} again={() => void stands.refetch()} />
      ) : stands.data ? (
        <Book key={discipline} stands={stands.data} owner={owner} />
      ) : (
        <Waiting what="Opening the playbook" />
      )}
    </div>
  );
}

function Book({ stands, owner }: { stands: Stands; owner: boolean }) {
  const client = useQueryClient();
  const { discipline } = stands;
  const path = { discipline };
  const saved: Prepared = { own: stands.draft, schools: stands.draft_schools };
  const draft = useDraft<Prepared>(`club-book/${discipline}`, saved);
  const [find, setFind] = useState("");
  const [onlyOwn, setOnlyOwn] = useState(false);
  useLeaving(draft.unsaved);
  const fresh = (got: Stands) => client.setQueryData(clubBook(discipline).queryKey, got);
  const keep = useMutation({
    mutationFn: (now: Prepared) =>
      need(
        api.PUT("/api/club/book/{discipline}/draft", {
          params: { path },
          body: {
            draft: { ...now.own, cues: lines(now.own.cues) },
            draft_schools: now.schools,
            version: stands.version,
          },
        }),
      ),
    onSuccess: (got, sent) => {
      fresh(got);
      draft.clear(sent);
    },
  });
  const turn = useMutation({
    mutationFn: (to: "draft" | "before" | "original") =>
      need(api.POST("/api/club/book/{discipline}/switch", { params: { path }, body: { to, version: stands.version } })),
    onSuccess: async (got) => {
      fresh(got);
      draft.clear();
      // Verdicts, titles and cues may all be others now.
      await client.invalidateQueries({ predicate: (q) => !["session", "club-book"].includes(String(q.queryKey[0])) });
    },
  });
  const { own, schools } = draft.value;
  const set = (change: Partial<Prepared>) => draft.set({ ...draft.value, ...change });
  const ownIsOn = Object.values(stands.on).some((x) => (Array.isArray(x) ? x.length : Object.keys(x).length));
  const rows = faultsOf(stands).filter(
    (r) =>
      (!onlyOwn || isChanged(own, r)) &&
      `${r.title} ${Object.values(own.titles).join(" ")}`.toLowerCase().includes(find.toLowerCase()),
  );
  return (
    <>
      <div className="flex flex-wrap items-center gap-3 rounded-lg border border-line bg-sheet p-4">
        <p className="mr-auto">
          {ownIsOn ? (
            <>
              Runs are judged by the club’s own playbook
              {stands.switched_at && (
                <span className="text-soft">
                  {" "}
                  since {day(stands.switched_at.slice(0, 10))}
                  {stands.switched_by && `, by ${stands.switched_by}`}
                </span>
              )}
            </>
          ) : (
            "Runs are judged by the playbook as it is"
          )}
          .
        </p>
        {owner && stands.can_go_back && (
          <Sure
            label="Back to what was on before"
            title="Judge by what was on before?"
            about="Every run of the discipline is judged again when it is next looked at. What was approved stays as it was sent."
            disabled={turn.isPending || draft.unsaved}
            onDo={() => turn.mutate("before")}
          />
        )}
        {owner && ownIsOn && (
          <Sure
            label="Switch off"
            title="Judge by the playbook as it is?"
            about="What the club prepared is kept here. Every run of the discipline is judged again when it is next looked at."
            disabled={turn.isPending || draft.unsaved}
            onDo={() => turn.mutate("original")}
          />
        )}
      </div>
      {stands.lapsed && (
        <p role="alert" className="rounded border border-warn px-3 py-2">
          What was switched on does not fit the playbook any more, and runs are judged without it: {stands.lapsed}
        </p>
      )}
      {turn.error && (
        <p role="alert" className="text-bad">
          {turn.error.message}
        </p>
      )}
      {owner && draft.unsaved ? (
        <div className="sticky top-0 z-10 flex flex-wrap items-center gap-3 rounded-lg border border-warn bg-sheet p-4">
          <p className="mr-auto">Not kept yet. It changes nothing before it is switched on.</p>
          {keep.error && (
            <p role="alert" className="w-full text-bad">
              {keep.error.message}
            </p>
          )}
          <Button disabled={keep.isPending} onClick={() => draft.clear()}>
            Leave it as it was
          </Button>
          <Button tone="main" disabled={keep.isPending} onClick={() => keep.mutate(draft.value)}>
            Keep
          </Button>
        </div>
      ) : (
        stands.differs && (
          <Effect
            key={stands.version}
            discipline={discipline}
            runs={stands.runs}
            may={owner}
            busy={turn.isPending}
            onSwitch={() => turn.mutate("draft")}
          />
        )
      )}
      <fieldset disabled={!owner} className="grid min-w-0 gap-4">
        {!owner && <p className="text-soft">Owners of the club change it.</p>}
        {stands.schools.length > 0 && (
          <section className="grid gap-3 rounded-lg border border-line bg-sheet p-4 sm:grid-cols-2">
            <h2 className="text-lg sm:col-span-2">Schools</h2>
            {stands.schools.map((s) => (
              <Field key={s.question} label={s.words} hint={`The playbook: ${s.options[s.default]}`}>
                {(id) => (
                  <Select
                    id={id}
                    value={schools[s.question] ?? ""}
                    onChange={(e) => set({ schools: put(schools, s.question, e.target.value || null) })}
                  >
                    <option value="">As the playbook</option>
                    {Object.entries(s.options).map(([key, title]) => (
                      <option key={key} value={key}>
                        {title}
                      </option>
                    ))}
                  </Select>
                )}
              </Field>
            ))}
          </section>
        )}
        <div className="flex flex-wrap items-center gap-3">
          <h2 className="mr-auto text-lg">Faults</h2>
          <label className="flex items-center gap-2">
            <input type="checkbox" checked={onlyOwn} onChange={(e) => setOnlyOwn(e.target.checked)} />
            The club’s own only
          </label>
          <Input
            className="max-w-56"
            aria-label="Find a fault"
            placeholder="Find a fault"
            value={find}
            onChange={(e) => setFind(e.target.value)}
          />
        </div>
        {rows.length === 0 && <p className="text-soft">No fault matches.</p>}
        {rows.map((row) => (
          <OneFault key={row.fault} row={row} own={own} onChange={(o) => set({ own: o })} />
        ))}
      </fieldset>
    </>
  );
}

/** Cues without the empty lines that stand while one is typed. */
const lines = (cues: Prepared["own"]["cues"]) =>
  Object.fromEntries(
    Object.entries(cues)
      .map(([key, said]) => [key, said.map((c) => c.trim()).filter(Boolean)] as const)
      .filter(([, said]) => said.length > 0),
  );
