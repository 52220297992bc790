import { useState } from "react";

import type { Schemas } from "../api/client";
import { Targets } from "../book/Targets";
import type { Send } from "../ui/useSend";
import { Chain } from "./Chain";
import { ClipBack } from "./ClipBack";
import { Ladder, Strengths } from "./Parts";
import { day } from "../ui/days";
import { Button } from "../ui/parts";
import { RightAndWrong } from "../ui/RightAndWrong";

/** What the rider reads: the film first, good things, one thing to change, how to practise it. */
export function RiderPage({
  page,
  base,
  onTick,
  onLine,
  onClip,
}: {
  page: Schemas["Shared"];
  /** Where paper and calendar are; without it this is a preview. */
  base?: string;
  onTick?: (drill: string, step: number, done: boolean) => void;
  onLine?: (text: string) => Promise<unknown>;
  onClip?: Send;
}) {
  const { prescription: p, ...d } = page;
  return (
    <main className="mx-auto grid max-w-xl gap-5 p-4 text-[1.05rem]">
      <header>
        <h1 className="text-2xl">{d.rider}</h1>
        <p className="text-soft">
          from {d.coach}, {d.club} · {new Date(d.approved_at).toLocaleDateString()}
          {d.version > 1 && " · changed since it was first sent"}
        </p>
      </header>
      {d.film?.url ? (
        <Film film={d.film} url={d.film.url} />
      ) : (
        d.film && <p className="text-soft">The film of your run is still being made. Look again in a few minutes.</p>
      )}
      {d.message && <p className="whitespace-pre-wrap">{d.message}</p>}
      {d.since.length > 0 && (
        <section>
          <h2 className="mb-1 text-lg">Since last time</h2>
          <Targets rows={d.since} />
        </section>
      )}
      {p.strengths.length > 0 && (
        <section>
          <h2 className="mb-1 text-lg">What is good</h2>
          <Strengths strengths={p.strengths} />
        </section>
      )}
      {p.intention && p.intention.answer !== "cannot_tell" && (
        <section>
          <h2 className="mb-1 text-lg">What you were trying{p.intention.text && `: ${p.intention.text}`}</h2>
          <p>{p.intention.why}</p>
        </section>
      )}
      {p.gear.length > 0 && (
        <section>
          <h2 className="mb-1 text-lg">{p.gear.some((g) => g.first) ? "Your gear first" : "Your gear"}</h2>
          {p.gear.map((g) => (
            <p key={g.text}>{g.text}</p>
          ))}
        </section>
      )}
      {p.main ? (
        <section className="grid gap-3">
          <h2 className="text-lg">The one thing</h2>
          <p className="rounded-lg bg-deep px-4 py-3 text-xl font-semibold text-on-deep">{p.main.cue}</p>
          <p>{p.main.why}</p>
          {d.figure && <RightAndWrong discipline={d.discipline} fault={p.main.fault} figure={d.figure} />}
        </section>
      ) : (
        <p>{d.nothing_words}</p>
      )}
      {d.pictures.map((x) => (
        <figure key={x.order}>
          <img src={x.url} alt={x.caption} loading="lazy" className="w-full rounded-lg" />
          <figcaption className="text-sm text-soft">{x.caption}</figcaption>
        </figure>
      ))}
      {p.main && (
        <section>
          <h2 className="mb-1 text-lg">Why</h2>
          <Chain prescription={p} titles={d.titles} />
        </section>
      )}
      {p.drills
        .filter((x) => x.fault === p.main?.fault)
        .map((x) => (
          <section key={x.id}>
            <h2 className="mb-1 text-lg">How to practise</h2>
            <Ladder drill={x} ticks={d.ticks} begin={d.begins[x.id]} onTick={onTick} />
          </section>
        ))}
      {d.others.length > 0 && (
        <section>
          <h2 className="mb-1 text-lg">After that</h2>
          <ol className="grid gap-2">
            {d.others.map((x) => (
              <li key={x.fault}>
                <b className="font-semibold">{x.title}.</b> {x.cue}
                {p.drills
                  .filter((y) => y.fault === x.fault)
                  .map((y) => (
                    <details key={y.id}>
                      <summary className="min-h-7 cursor-pointer">How to practise it</summary>
                      <Ladder drill={y} ticks={d.ticks} begin={d.begins[y.id]} onTick={onTick} />
                    </details>
                  ))}
              </li>
            ))}
          </ol>
        </section>
      )}
      {d.targets.length > 0 && (
        <section>
          <h2 className="mb-1 text-lg">Next time, on {day(d.retest_on)}</h2>
          <ul className="grid gap-1">
            {d.targets.map((t) => (
              <li key={t}>{t}</li>
            ))}
          </ul>
        </section>
      )}
      {d.lessons.length > 0 && (
        <section>
          <h2 className="mb-1 text-lg">To read</h2>
          <ul>
            {d.lessons.map((x) => (
              <li key={x.fault}>
                <a href={x.url} className="inline-block min-h-7 underline">
                  {x.title} (PDF)
                </a>
              </li>
            ))}
          </ul>
        </section>
      )}
      {d.closing.map((text) => (
        <p key={text} className="whitespace-pre-wrap">
          {text}
        </p>
      ))}
      {(d.lines.length > 0 || onLine) && <Back lines={d.lines} coach={d.coach} onLine={onLine} />}
      {(d.clips_back.length > 0 || onClip) && <ClipBack sent={d.clips_back} coach={d.coach} onClip={onClip} />}
      {base && (
        <p className="no-print flex flex-wrap gap-x-4 gap-y-1">
          <a className="min-h-7 underline" href={`${base}/paper`}>
            On paper (PDF)
          </a>
          <a className="min-h-7 underline" href={`${base}/calendar`}>
            Into my calendar
          </a>
        </p>
      )}
      <section className="border-t border-line pt-3 text-sm text-soft">
        <h2 className="mb-1 font-semibold">Take care</h2>
        <ul className="grid gap-1">
          {p.cautions.map((c) => (
            <li key={c}>{c}</li>
          ))}
        </ul>
      </section>
    </main>
  );
}

function Film({ film, url }: { film: Schemas["SentFilm"]; url: string }) {
  return (
    <video controls playsInline preload="metadata" className="w-full rounded-lg bg-stage" aria-label="Your run, told">
      <source src={url} type="video/mp4" />
      <track kind="captions" src={film.captions} srcLang="en" label="English" default />
    </video>
  );
}

/** A line back to the coach. */
function Back({
  lines,
  coach,
  onLine,
}: {
  lines: Schemas["Line"][];
  coach: string;
  onLine?: (text: string) => Promise<unknown>;
}) {
  const [text, setText] = useState("");
  const [state, setState] = useState<"" | "sending" | "sent" | Error>("");
  return (
    <section className="no-print grid gap-1.5">
      <h2 className="text-lg">A line back to {coach || "your coach"}</h2>
      {lines.map((x) => (
        <p key={x.at} className="rounded bg-tint px-3 py-1.5">
          {x.text}
        </p>
      ))}
      {onLine && (
        <form
          className="flex gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            setState("sending");
            onLine(text.trim()).then(
              () => {
                setText("");
                setState("sent");
              },
              (error: Error) => setState(error),
            );
          }}
        >
          <input
            aria-label="Your line"
            required
            maxLength={500}
            value={text}
            onChange={(e) => setText(e.target.value)}
            placeholder="How it felt, what you wonder about"
            className="w-full min-w-0 rounded border border-line bg-sheet px-2 py-1.5"
          />
          <Button type="submit" disabled={state === "sending" || !text.trim()}>
            Send
          </Button>
        </form>
      )}
      {state === "sent" && (
        <p role="status" className="text-sm text-soft">
          Sent.
        </p>
      )}
      {state instanceof Error && (
        <p role="alert" className="text-sm text-bad">
          {state.message} What you wrote is still here.
        </p>
      )}
    </section>
  );
}
