import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { CircleCheck, Copy } from "lucide-react";
import { useState } from "react";

import { api, need, type Script } from "../api/client";
import { day } from "../ui/days";
import { Button, Field, Input } from "../ui/parts";
import { Sure } from "../ui/Sure";

/** Asked while the Script is written, so that sharing is not refused when it is done. */
export function MayBeMinor({ run, rider }: { run: number; rider: Script["rider"] }) {
  const client = useQueryClient();
  const [born, setBorn] = useState(rider.born?.toString() ?? "");
  const save = useMutation({
    mutationFn: (body: { born?: number; guardian_consent?: boolean }) =>
      need(api.PATCH("/api/riders/{id}", { params: { path: { id: rider.id } }, body })),
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: ["script", run] });
      void client.invalidateQueries({ queryKey: ["riders"] });
    },
  });
  return (
    <form
      className="flex flex-wrap items-end gap-3 rounded border border-warn bg-sheet px-3 py-2"
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate({ born: Number(born) });
      }}
    >
      <p className="basis-full">
        {rider.name} may be a minor{rider.born === null && ": the year of birth is not known"}. Before this can be
        shared, note the year or a guardian’s consent.
      </p>
      <Field label="Born in">
        {(id) => (
          <Input
            id={id}
            type="number"
            required
            min={1910}
            max={2100}
            className="max-w-28"
            value={born}
            onChange={(e) => setBorn(e.target.value)}
          />
        )}
      </Field>
      <Button type="submit" disabled={save.isPending}>
        Save the year
      </Button>
      <Button disabled={save.isPending} onClick={() => save.mutate({ guardian_consent: true })}>
        A guardian has consented
      </Button>
      {save.error && (
        <p role="alert" className="basis-full text-bad">
          {save.error.message}
        </p>
      )}
    </form>
  );
}

/** The link by which the rider reads what was approved. */
export function Sharing({
  run,
  script,
  onDo,
  busy,
}: {
  run: number;
  script: Script;
  onDo: (what: "share" | "unshare") => void;
  busy: boolean;
}) {
  const link = script.share && `${location.origin}${script.share.path}`;
  const [copied, setCopied] = useState<boolean | null>(null);
  return (
    <section className="flex flex-wrap items-center gap-3 rounded-lg border border-line bg-sheet px-4 py-3">
      <CircleCheck aria-hidden className="size-5 text-good" />
      <p>
        Approved {new Date(script.approved_at!).toLocaleString()}.{" "}
        {link ? "The rider reads it at" : "It has not left yet."}
      </p>
      {link ? (
        <>
          <a href={link} className="max-w-72 truncate underline">
            {link}
          </a>
          <Button
            onClick={() =>
              void navigator.clipboard.writeText(link).then(
                () => setCopied(true),
                () => setCopied(false),
              )
            }
          >
            <Copy aria-hidden className="size-4" /> {copied ? "Copied" : "Copy"}
          </Button>
          {copied === false && (
            <span role="status" className="text-sm text-soft">
              The browser does not let this page copy. Mark the link and copy it by hand.
            </span>
          )}
          {typeof navigator.share === "function" && (
            <Button
              onClick={() =>
                void navigator.share({ title: `Script for ${script.rider.name}`, url: link }).catch(() => undefined)
              }
            >
              Send…
            </Button>
          )}
          <span className="text-soft">until {day(script.share!.expires.slice(0, 10))}</span>
          <Sure
            label="Withdraw"
            title="Withdraw the link?"
            about="The rider’s link stops working at once, and for good; you can make a new one."
            tone="bad"
            disabled={busy}
            onDo={() => onDo("unshare")}
          />
        </>
      ) : (
        <Button disabled={busy} onClick={() => onDo("share")}>
          Make a link for the rider
        </Button>
      )}
      <span className="flex flex-wrap gap-3">
        <a href={`/api/runs/${run}/script/paper`} className="min-h-7 underline">
          On paper (PDF, A4)
        </a>
        <a href={`/api/runs/${run}/script/paper?paper=letter`} className="min-h-7 underline">
          Letter
        </a>
        <a href={`/api/runs/${run}/script/calendar`} className="min-h-7 underline">
          Calendar
        </a>
        <a href={`/api/runs/${run}/script/numbers`} className="min-h-7 underline">
          Numbers (CSV)
        </a>
        <a href={`/api/runs/${run}/script/numbers?form=json`} className="min-h-7 underline">
          JSON
        </a>
      </span>
      <ByMail run={run} script={script} />
      {script.film && (
        <p className="basis-full text-sm text-soft">
          {script.film.url ? (
            <>
              The Telling goes with it as{" "}
              <a href={script.film.url} className="underline">
                a film
              </a>
              .
            </>
          ) : (
            "The film of the Telling is being made; the rider’s page shows it as soon as it is there."
          )}
        </p>
      )}
      {script.share && (
        <p className="basis-full text-sm text-soft">
          {script.share.seen
            ? `Opened ${script.share.seen === 1 ? "once" : `${script.share.seen} times`}, last on ${new Date(script.share.seen_at!).toLocaleString()}.`
            : "Not opened yet."}
          {script.ticks.length > 0 &&
            ` ${script.ticks.length === 1 ? "One step" : `${script.ticks.length} steps`} of the ladder ticked.`}
        </p>
      )}
      {script.clips_back.map((x) => (
        <p key={x.run} className="basis-full rounded bg-tint px-3 py-1.5">
          <b className="font-semibold">{script.rider.name}</b> sent a clip back:{" "}
          <Link to="/runs/$run" params={{ run: x.run }} className="underline">
            {x.name}
          </Link>{" "}
          <span className="text-sm text-soft">
            {new Date(x.at).toLocaleString()}
            {x.state === "unreadable" && `, it cannot be judged: ${x.problem}`}
            {x.state === "arriving" && ", still arriving"}
          </span>
        </p>
      ))}
      {script.lines.map((x) => (
        <p key={x.at} className="basis-full rounded bg-tint px-3 py-1.5">
          <b className="font-semibold">{script.rider.name}:</b> {x.text}{" "}
          <span className="text-sm text-soft">{new Date(x.at).toLocaleString()}</span>
        </p>
      ))}
    </section>
  );
}

/** The link by mail; where there is no mail server, what would have been sent is shown to be copied. */
function ByMail({ run, script }: { run: number; script: Script }) {
  const client = useQueryClient();
  const [to, setTo] = useState("");
  const send = useMutation({
    mutationFn: () => need(api.POST("/api/runs/{run}/script/mail", { params: { path: { run } }, body: { to } })),
    onSuccess: (fresh) => {
      client.setQueryData(["script", run], fresh);
      setTo("");
    },
  });
  return (
    <div className="grid basis-full gap-1.5">
      <form
        className="flex max-w-md gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          send.mutate();
        }}
      >
        <Input
          aria-label="Mail address"
          type="email"
          required
          placeholder="Mail address"
          value={to}
          onChange={(e) => setTo(e.target.value)}
        />
        <Button type="submit" disabled={send.isPending || !to}>
          Send by mail
        </Button>
      </form>
      {send.error && (
        <p role="alert" className="text-sm text-bad">
          {send.error.message}
        </p>
      )}
      {script.mails.map((m) => (
        <details key={m.at} className="text-sm text-soft">
          <summary className="min-h-7 cursor-pointer">
            {m.left
              ? `Sent to ${m.to}, ${new Date(m.at).toLocaleString()}`
              : `Not sent to ${m.to}: no mail server is set here. This is what it would say`}
          </summary>
          <p className="rounded bg-tint px-3 py-2 whitespace-pre-wrap">
            <b className="font-semibold">{m.subject}</b>
            {`\n\n${m.text}`}
          </p>
        </details>
      ))}
    </div>
  );
}
