import { Link } from "@tanstack/react-router";
import { useRef, useState } from "react";

import { api, need, type Schemas } from "../api/client";
import { Bar, Button } from "../ui/parts";

type Row = Schemas["EffectRow"];

interface Looked {
  rows: Row[];
  at: number;
  asked: number;
  done: boolean;
}

/** What becomes of past verdicts with what is prepared: looked through part by part, the newest run first. */
export function Effect({
  discipline,
  runs,
  may,
  busy,
  onSwitch,
}: {
  discipline: string;
  runs: number;
  may: boolean;
  busy: boolean;
  onSwitch: () => void;
}) {
  const [seen, setSeen] = useState<Looked | null>(null);
  const [going, setGoing] = useState(false);
  const [error, setError] = useState("");
  const stop = useRef(false);
  const look = async () => {
    stop.current = false;
    setGoing(true);
    setError("");
    const now: Looked = { rows: [], at: 0, asked: 0, done: false };
    let below: number | null = null;
    try {
      do {
        const part: Schemas["Effect"] = await need(
          api.GET("/api/club/book/{discipline}/effect", {
            params: { path: { discipline }, query: below === null ? {} : { below } },
          }),
        );
        now.rows = [...now.rows, ...part.rows];
        now.at += part.looked_at;
        now.asked += part.asked_first;
        below = part.next;
        now.done = below === null;
        setSeen({ ...now });
      } while (below !== null && !stop.current);
    } catch (e) {
      setError((e as Error).message);
    }
    setGoing(false);
  };
  const mains = seen?.rows.filter((r) => r.main_changed).length ?? 0;
  return (
    <section aria-label="What it changes" className="grid gap-3 rounded-lg border border-line bg-sheet p-4">
      <div className="flex flex-wrap items-center gap-3">
        <h2 className="mr-auto text-lg">What it changes in past verdicts</h2>
        {going ? (
          <Button onClick={() => (stop.current = true)}>Stop</Button>
        ) : (
          <Button tone={seen ? "plain" : "main"} onClick={() => void look()}>
            {seen ? "Look again" : `Look through ${runs} judged ${runs === 1 ? "run" : "runs"}`}
          </Button>
        )}
        {may && seen && !going && (
          <Button tone="main" disabled={busy} onClick={onSwitch}>
            Switch it on
          </Button>
        )}
      </div>
      {going && <Bar share={runs ? Math.min(1, (seen?.at ?? 0) / runs) : 0} label="Runs looked through" />}
      {error && (
        <p role="alert" className="text-bad">
          {error}
        </p>
      )}
      {seen && (
        <>
          <p role="status">
            {seen.done ? "" : "So far: "}
            {mains} of {seen.at} runs get another main thing, {seen.rows.length - mains} more change otherwise
            {seen.asked > 0 && `; ${seen.asked} ask a question first and are not judged`}.
            {" What was approved and sent stays as it was sent."}
          </p>
          {seen.rows.length > 0 && (
            <div className="overflow-x-auto">
              <table className="w-full">
                <thead>
                  <tr className="border-b border-line text-left text-soft">
                    {["Run", "Now", "With it", "Besides"].map((h) => (
                      <th key={h} className="py-1 pr-3 font-semibold">
                        {h}
                      </th>
                    ))}
                  </tr>
                </thead>
                <tbody>
                  {seen.rows.map((r) => (
                    <tr key={r.run} className="border-b border-line align-top last:border-0">
                      <td className="py-1.5 pr-3">
                        <Link to="/runs/$run" params={{ run: r.run }} search={{}} className="underline">
                          {r.rider}
                        </Link>
                        <br />
                        <span className="text-sm text-soft">{[r.title, r.level].filter(Boolean).join(" · ")}</span>
                      </td>
                      <td className="py-1.5 pr-3">{r.main_before ?? "no main thing"}</td>
                      <td className={`py-1.5 pr-3 ${r.main_changed ? "font-semibold" : ""}`}>
                        {r.main_now ?? "no main thing"}
                      </td>
                      <td className="py-1.5 text-sm text-soft">{besides(r)}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </div>
          )}
        </>
      )}
    </section>
  );
}

const besides = (r: Row) =>
  [
    r.new.length ? `found: ${r.new.join(", ")}` : "",
    r.gone.length ? `gone: ${r.gone.join(", ")}` : "",
    r.surer.length ? `surer: ${r.surer.join(", ")}` : "",
    r.less_sure.length ? `less sure: ${r.less_sure.join(", ")}` : "",
  ]
    .filter(Boolean)
    .join("; ") || "nothing";
