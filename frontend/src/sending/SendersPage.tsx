import { CircleCheck, Clock, TriangleAlert } from "lucide-react";
import { useEffect, useState } from "react";

import type { Schemas } from "../api/client";
import { ChooseClip, OnItsWay } from "../ui/OnItsWay";
import { sendPieces } from "../shared/sendPieces";
import { useSend } from "../ui/useSend";
import { type Refusal, sent, takeBack } from "../shared/wire";
import { conditionsOf, type Given } from "../ui/conditions";
import { day } from "../ui/days";
import { Button, Field, Input, Trouble, Waiting } from "../ui/parts";
import { Conditions } from "./Conditions";

type Clip = Schemas["Sent"];
/** What is looked at is asked after this often, ms; and everything else. */
const SOON = 3000;
const LATER = 60_000;

const STATES: Record<Clip["state"], string> = {
  arriving: "This clip did not arrive whole yet. Choose the same file again and it goes on.",
  looking: "It has arrived whole and is being looked at. Wait a moment: you are told here whether it can be judged.",
  held: "It can be opened, and you are in it. Your coach sees it next.",
  in: "It is with your coach. The answer appears here.",
  unreadable: "It cannot be judged:",
  refused: "It was not taken:",
};

/** A sender's own page: send clips, see what becomes of them, read the answers. */
export function SendersPage({ token }: { token: string }) {
  const [data, setData] = useState<Schemas["SendersPage"] | null>(null);
  const [error, setError] = useState<Refusal | null>(null);
  const [again, setAgain] = useState(0);
  const fresh = () => setAgain((n) => n + 1);
  useEffect(() => {
    let current = true;
    sent(token).then(
      (got) => {
        if (!current) return;
        setError(null);
        setData(got);
      },
      (e: Refusal) => current && setError(e),
    );
    return () => {
      current = false;
    };
  }, [token, again]);
  const looking = data?.clips.some((c) => c.state === "looking");
  useEffect(() => {
    const handle = setTimeout(() => document.visibilityState === "visible" && fresh(), looking ? SOON : LATER);
    return () => clearTimeout(handle);
  }, [looking, again]);
  if (!data && error) return <Trouble error={error} again={error.status === 404 ? undefined : fresh} />;
  if (!data) return <Waiting what="Opening your page" />;
  const taken = data.clips.filter((c) => c.state !== "unreadable" && c.state !== "refused").length;
  return (
    <main className="mx-auto grid max-w-xl gap-5 p-4 text-[1.05rem]">
      <header className="grid gap-1">
        <p className="text-soft">
          {data.club} · {data.title}
        </p>
        <h1 className="text-2xl">{data.name}</h1>
        <p className="text-soft">
          {data.discipline}
          {data.answer_by && ` · your answer by ${day(data.answer_by)}`}
        </p>
      </header>
      {error && (
        <p role="alert" className="text-sm text-bad">
          {error.message}
        </p>
      )}
      {data.clips.length > 0 && (
        <section className="grid gap-2">
          <h2 className="text-lg">What you sent</h2>
          <ul className="grid gap-3">
            {data.clips.map((clip) => (
              <li key={clip.id} className="rounded-lg border border-line bg-sheet p-3">
                <OneClip clip={clip} token={token} onChange={fresh} />
              </li>
            ))}
          </ul>
        </section>
      )}
      {data.open && taken < data.most_clips ? (
        <NewClip token={token} page={data} left={data.most_clips - taken} onSent={fresh} />
      ) : (
        <p className="text-soft">
          {data.open
            ? "You have sent all the clips that this link takes."
            : "This link takes no more clips. The answers still appear here."}
        </p>
      )}
      <p className="rounded bg-tint px-3 py-2 text-sm">
        This is your own page: keep its address. Whoever has it can read your answer and take your clips back.
      </p>
    </main>
  );
}

function OneClip({ clip, token, onChange }: { clip: Clip; token: string; onChange: () => void }) {
  const [sure, setSure] = useState(false);
  const [problem, setProblem] = useState("");
  const bad = clip.state === "unreadable" || clip.state === "refused";
  const Icon = clip.answer ? CircleCheck : bad ? TriangleAlert : Clock;
  const back = () =>
    takeBack(token, clip.id).then(onChange, (e: Error) => {
      setSure(false);
      setProblem(e.message);
    });
  return (
    <div className="grid gap-1.5">
      <p className="flex items-center gap-2 font-semibold">
        <Icon aria-hidden className={`size-5 shrink-0 ${bad ? "text-bad" : clip.answer ? "text-good" : "text-soft"}`} />
        <span className="min-w-0 truncate">{clip.name}</span>
      </p>
      {clip.intention_text && <p className="text-soft">Trying to: {clip.intention_text}</p>}
      {clip.answer ? (
        <a
          href={clip.answer}
          className="inline-flex min-h-11 items-center justify-self-start rounded bg-deep px-4 font-semibold text-on-deep"
        >
          Read the answer
        </a>
      ) : (
        <p role="status">
          {STATES[clip.state]} {clip.problem}
        </p>
      )}
      {clip.advice.length > 0 && !clip.answer && (
        <div className="rounded bg-tint px-3 py-2">
          <p className="font-semibold">To film better next time</p>
          <ul className="list-disc pl-5">
            {clip.advice.map((a) => (
              <li key={a}>{a}</li>
            ))}
          </ul>
        </div>
      )}
      {problem && (
        <p role="alert" className="text-sm text-bad">
          {problem}
        </p>
      )}
      {!clip.answer && (
        <div className="flex flex-wrap items-center gap-2">
          {sure ? (
            <>
              <span className="text-sm">It is erased, with all that was made of it.</span>
              <Button tone="bad" onClick={() => void back()}>
                Erase it
              </Button>
              <Button onClick={() => setSure(false)}>Keep it</Button>
            </>
          ) : (
            <Button tone="quiet" className="text-sm" onClick={() => setSure(true)}>
              {bad ? "Take off this list" : "Take it back"}
            </Button>
          )}
        </div>
      )}
    </div>
  );
}

function NewClip({
  token,
  page,
  left,
  onSent,
}: {
  token: string;
  page: Schemas["SendersPage"];
  left: number;
  onSent: () => void;
}) {
  const [intention, setIntention] = useState("");
  const [given, setGiven] = useState<Given>({});
  const sending = useSend();
  const send = async (file: File) => {
    const said = { intention, conditions: JSON.stringify(conditionsOf(given, page.conditions)) };
    if (await sending.send(sendPieces(`/api/sent/${token}/clips`, said), file)) setIntention("");
    onSent();
  };
  return (
    <section className="grid gap-4">
      <h2 className="text-lg">{page.clips.length ? "Another clip" : "Your clip"}</h2>
      <Field label="What were you trying to do?" hint="In your own words. Your coach reads it beside the clip.">
        {(id) => <Input id={id} maxLength={300} value={intention} onChange={(e) => setIntention(e.target.value)} />}
      </Field>
      {Object.keys(page.conditions).length > 0 && (
        <details>
          <summary className="min-h-9 cursor-pointer font-semibold">The day (what you know of it)</summary>
          <div className="grid gap-3 pt-2 sm:grid-cols-2">
            <Conditions known={page.conditions} given={given} onChange={setGiven} />
          </div>
        </details>
      )}
      <div className="grid gap-1.5">
        <p className="text-sm text-soft">
          The whole run in one piece, the whole body in the picture, filmed from one place.{" "}
          {left === 1 ? "One clip" : `Up to ${left} clips`}, one after the other. Where the line breaks, it goes on from
          there.
        </p>
        {sending.share === null && <ChooseClip label="Your clip" onFile={(file) => void send(file)} />}
        <OnItsWay sending={sending} />
      </div>
    </section>
  );
}
