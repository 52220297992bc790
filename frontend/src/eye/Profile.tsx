import { useQuery } from "@tanstack/react-query";

import type { Schemas } from "../api/client";
import { eyeProfile } from "../api/queries";
import { Trouble, Waiting } from "../ui/parts";
import { EXERCISES } from "./types";

type Eye = Schemas["EyeProfile"];
type Interval = Schemas["EyeInterval"];

/** What the coach's answers say of their eye, every figure with its 95 % interval. */
export function Profile() {
  const data = useQuery(eyeProfile);
  if (data.error) return <Trouble error={data.error} again={() => void data.refetch()} />;
  if (!data.data) return <Waiting what="Looking through your answers" />;
  const p = data.data;
  if (p.answers === 0)
    return (
      <p className="rounded border border-dashed border-line p-8 text-center text-soft">
        What you see rightly, by how much you are off, the smallest fault that you see and how far you agree with others
        will stand here after a few sessions. Only you see it.
      </p>
    );
  return (
    <>
      <Part title="Right, by exercise">
        <Shares shares={p.shares} />
      </Part>
      <Part title="Week by week">
        <Weeks weeks={p.weeks} />
      </Part>
      <Part title="How you read lines and moments">
        {p.read.length ? <Read rows={p.read} /> : <Few what="five answers to one measure" />}
      </Part>
      <Part title="The smallest fault that you see three times out of four">
        {p.smallest.length ? (
          <Smallest rows={p.smallest} />
        ) : (
          <Few what="twelve faults in one discipline from one view" />
        )}
      </Part>
      <Part title="Faults where there are none">
        {p.alarms ? <Alarms a={p.alarms} /> : <Few what="five riders without a fault and five with one" />}
      </Part>
      <Part title="Agreement on the same riders">
        {p.agreement.length ? (
          <Agreement rows={p.agreement} />
        ) : (
          <Few what="eight riders that another coach has answered too" />
        )}
      </Part>
    </>
  );
}

function Part({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <section className="grid gap-2 rounded-lg border border-line bg-sheet p-4">
      <h2 className="text-base text-soft">{title}</h2>
      {children}
    </section>
  );
}

const Few = ({ what }: { what: string }) => <p className="text-sm text-soft">This is told after {what}.</p>;

const pct = (x: number) => `${Math.round(100 * x)} %`;

function Shares({ shares }: { shares: Eye["shares"] }) {
  return (
    <ul className="grid gap-x-6 gap-y-1 sm:grid-cols-2">
      {shares.map((s) => (
        <li key={s.exercise} className="grid grid-cols-[9.5rem_1fr_auto] items-center gap-2">
          <span>{EXERCISES[s.exercise]}</span>
          <Track value={s.right / s.n} low={s.low} high={s.high} from={0} to={1} />
          <span className="text-sm tabular-nums">
            {pct(s.right / s.n)} <span className="text-soft">of {s.n}</span>
          </span>
        </li>
      ))}
    </ul>
  );
}

/** A figure with its interval on a line from `from` to `to`; a mark where zero is, if it is inside. */
function Track({ value, low, high, from, to }: Interval & { from: number; to: number }) {
  const at = (v: number) => `${(100 * (Math.min(Math.max(v, from), to) - from)) / (to - from)}%`;
  return (
    <span aria-hidden className="relative block h-4 min-w-16 rounded bg-tint">
      {from < 0 && to > 0 && <span className="absolute inset-y-0 w-px bg-soft" style={{ left: at(0) }} />}
      <span
        className="absolute inset-y-1 rounded bg-deep opacity-30"
        style={{ left: at(low), right: `calc(100% - ${at(high)})` }}
      />
      <span className="absolute inset-y-0.5 w-1 -translate-x-1/2 rounded bg-deep" style={{ left: at(value) }} />
    </span>
  );
}

function Weeks({ weeks }: { weeks: Eye["weeks"] }) {
  return (
    <ol className="flex flex-wrap gap-4">
      {weeks.map((w) => (
        <li key={w.start} className="grid gap-0.5 text-center text-sm">
          <span
            aria-hidden
            className="flex h-16 w-10 flex-col-reverse justify-self-center overflow-hidden rounded bg-tint"
          >
            <span className="bg-deep opacity-70" style={{ height: pct(w.right / w.n).replace(" ", "") }} />
          </span>
          <b className="font-semibold tabular-nums">{pct(w.right / w.n)}</b>
          <span className="text-soft">
            week {w.start / 7 + 1}, n = {w.n}
          </span>
        </li>
      ))}
    </ol>
  );
}

function Read({ rows }: { rows: Eye["read"] }) {
  const places = (unit: string) => (unit === "s" ? 3 : 1);
  return (
    <div className="overflow-x-auto">
      <table className="w-full min-w-lg text-sm">
        <thead>
          <tr className="text-left text-soft">
            <th className="pr-4 font-semibold">What</th>
            <th className="pr-4 font-semibold">Off by, in the mean</th>
            <th className="w-32 pr-4" />
            <th className="pr-4 font-semibold">Spread</th>
            <th className="font-semibold">n</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => {
            const d = places(r.unit);
            const wide = r.unit === "s" ? 0.2 : 12;
            const sure = r.bias.low > 0 || r.bias.high < 0;
            return (
              <tr key={r.id} className="align-baseline">
                <td className="pr-4">{r.title}</td>
                <td className={`pr-4 tabular-nums ${sure ? "font-semibold" : ""}`}>
                  {signed(r.bias.value, d)}
                  {behind(r.unit)}{" "}
                  <span className="font-normal text-soft">
                    ({signed(r.bias.low, d)} to {signed(r.bias.high, d)})
                  </span>
                </td>
                <td className="pr-4">
                  <Track {...r.bias} from={-wide} to={wide} />
                </td>
                <td className="pr-4 tabular-nums">
                  {r.spread.value.toFixed(d)}
                  {behind(r.unit)}{" "}
                  <span className="text-soft">
                    ({r.spread.low.toFixed(d)} to {r.spread.high.toFixed(d)})
                  </span>
                </td>
                <td className="tabular-nums">{r.n}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <p className="mt-1 text-sm text-soft">+ is larger, or later, than it was. Bold: beyond its interval off.</p>
    </div>
  );
}

const behind = (unit: string) => (unit === "°" ? unit : ` ${unit}`);

const signed = (v: number, places: number) => `${v >= 0 ? "+" : "−"}${Math.abs(v).toFixed(places)}`;

function Smallest({ rows }: { rows: Eye["smallest"] }) {
  return (
    <ul className="grid gap-1 text-sm">
      {rows.map((r) => (
        <li
          key={`${r.exercise} ${r.discipline} ${r.view}`}
          className="grid items-center gap-x-3 sm:grid-cols-[1fr_10rem_15rem]"
        >
          <span>
            {r.title}, from {r.view} <span className="text-soft">({EXERCISES[r.exercise]?.toLowerCase()})</span>
          </span>
          <Track value={r.size} low={r.low} high={r.high} from={0} to={3} />
          <span className="tabular-nums">
            {r.size.toFixed(2)} scales{" "}
            <span className="text-soft">
              ({r.low.toFixed(2)} to {r.high.toFixed(2)}), n = {r.n}
            </span>
          </span>
        </li>
      ))}
      <li className="text-soft">One scale is as far beyond a band as the playbook counts for plainly wrong.</li>
    </ul>
  );
}

function Alarms({ a }: { a: NonNullable<Eye["alarms"]> }) {
  const two = (x: Interval) => `${x.value.toFixed(2)} (${x.low.toFixed(2)} to ${x.high.toFixed(2)})`;
  const lean =
    a.criterion.low > 0
      ? "You are slow to say that something is wrong."
      : a.criterion.high < 0
        ? "You are quick to say that something is wrong."
        : "You lean neither way that can be told.";
  return (
    <div className="grid gap-1">
      <p>
        Of {a.clean} riders without a fault you gave one to {pct(a.alarms.value)}{" "}
        <span className="text-soft">
          ({pct(a.alarms.low)} to {pct(a.alarms.high)})
        </span>
        . {lean}
      </p>
      <p className="text-sm text-soft">
        d′ {two(a.d_prime)} · criterion {two(a.criterion)} · n = {a.n}
      </p>
    </div>
  );
}

function Agreement({ rows }: { rows: Eye["agreement"] }) {
  return (
    <ul className="grid gap-1 text-sm">
      {rows.map((r) => (
        <li key={`${r.with} ${r.kind}`} className="grid items-center gap-x-3 sm:grid-cols-[1fr_10rem_17rem]">
          <span>
            With {r.with}: <b className="font-semibold">{r.says}</b>{" "}
            <span className="text-soft">{r.kind === "icc" ? "on angles" : "on choices"}</span>
          </span>
          <Track value={r.value} low={r.low ?? r.value} high={r.high ?? r.value} from={-0.2} to={1} />
          <span className="tabular-nums">
            {r.kind === "icc" ? "ICC" : "κ"} {r.value.toFixed(2)}{" "}
            <span className="text-soft">
              {r.low !== null && r.high !== null ? `(${r.low.toFixed(2)} to ${r.high.toFixed(2)})` : "(no interval)"},{" "}
              {r.items} riders{r.coaches > 2 && `, ${r.coaches} coaches`}
            </span>
          </span>
        </li>
      ))}
    </ul>
  );
}
