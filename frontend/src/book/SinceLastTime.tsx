import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";

import { following } from "../api/queries";
import { day } from "../ui/days";
import { Targets } from "./Targets";

/** What this run shows of what was prescribed on the rider's last one; nothing where nothing was. */
export function SinceLastTime({
  run,
  version,
  cue,
  onCue,
}: {
  run: number;
  version: string;
  /** The cue that stands now. */
  cue?: string;
  onCue?: (cue: string) => void;
}) {
  const data = useQuery(following(run, version));
  const f = data.data?.following;
  if (data.error)
    return (
      <p role="alert" className="px-3 py-1.5 text-sm text-bad">
        What became of the last Script could not be read: {data.error.message}
      </p>
    );
  if (!f) return null;
  return (
    <section aria-label="Since last time" className="grid gap-2 border-b border-line px-3 py-2">
      <h2 className="text-base">Since {f.on === today() ? "the last run" : day(f.on)}</h2>
      <p className="text-sm">
        Then it was <b className="font-semibold">{lower(f.fault)}</b>, with the cue “{f.cue}”
      </p>
      {f.rows.length ? (
        <Targets rows={f.rows} />
      ) : (
        <p className="text-sm text-soft">It set no target that is measured, so nothing is told of it here.</p>
      )}
      {f.instead && (
        <p role="status" className="rounded border border-warn px-2 py-1.5 text-sm">
          {f.instead.says}{" "}
          {onCue && f.instead.cue && f.instead.cue !== cue && (
            <button
              type="button"
              className="min-h-7 rounded border border-line px-2 font-semibold hover:bg-tint"
              onClick={() => onCue(f.instead!.cue)}
            >
              Give it
            </button>
          )}
        </p>
      )}
      {f.stepped && <p className="text-sm">{f.stepped}</p>}
      {f.changed.length > 0 && (
        <details className="text-sm">
          <summary className="min-h-7 cursor-pointer">
            {f.stepped && <p className="text-sm">{f.stepped}</p>}
            {f.changed.length === 1 ? "Something else" : `${f.changed.length} other things`} changed beyond doubt
          </summary>
          <ul className="grid gap-0.5 pl-4">
            {f.changed.map((c) => (
              <li key={c}>{c}</li>
            ))}
          </ul>
        </details>
      )}
      <Link to="/pair" search={{ a: f.run, b: run }} className="min-h-7 justify-self-start text-sm underline">
        Both runs beside each other
      </Link>
    </section>
  );
}

const lower = (title: string) => title.charAt(0).toLowerCase() + title.slice(1);

/** Today where the reader lives, as the server writes days. */
const today = () => new Date().toLocaleDateString("sv");
