import type { Bench, Discipline, Finding, Schemas } from "../api/client";
import { Button, SideMark } from "../ui/parts";
import { plain } from "../ui/places";
import { RightAndWrong } from "../ui/RightAndWrong";
import { Rivals } from "../ui/Rivals";
import { FindingMenu, type Say } from "../word/FindingMenu";

const STATUS: Record<string, string> = { root: "cause", symptom: "follows from it", episode: "once" };

/** What was found: causes first, what follows from them indented, each with the way to its frames. */
export function Findings({
  bench,
  book,
  busy,
  onEvidence,
  onRate,
  runId,
  onSay,
}: {
  runId: number;
  bench: Bench;
  book?: Discipline;
  onSay: Say;
  busy?: boolean;
  onEvidence: (e: Schemas["Evidence"]) => void;
  onRate?: () => void;
}) {
  const { findings, main, strengths, intention, limits = [], beside = [], fairness = [], unlock } = bench.prescription;
  const unsettled = findings.filter((f) => f.status === "unclear");
  const menu = (f: Finding) => (
    <FindingMenu
      {...{ runId, onSay }}
      version={bench.version}
      fault={f.fault}
      title={f.title}
      prescription={bench.prescription}
      word={bench.word}
    />
  );
  const title = (fault: string) =>
    findings.find((f) => f.fault === fault)?.title ?? book?.faults[fault]?.title ?? fault;
  return (
    <div className="grid gap-2 px-3 py-2">
      {strengths.length > 0 && (
        <ul className="grid gap-0.5">
          {strengths.map((s) => (
            <li key={s.id} className="flex gap-2">
              <span aria-hidden className="text-good">
                ✓
              </span>{" "}
              {s.text}
            </li>
          ))}
        </ul>
      )}
      {!main && <p>{bench.nothing_words}</p>}
      {intention && (
        <p>
          <b className="font-semibold">Trying to{intention.text && `: ${intention.text}`}.</b> {intention.why}
        </p>
      )}
      <ul className="grid gap-1.5">
        {findings
          .filter((f) => f.status !== "unclear")
          .map((f) => (
            <li
              key={f.fault}
              className={f.status === "symptom" && f.fault !== main?.fault ? "ml-5 border-l-2 border-line pl-2" : ""}
            >
              <div className="flex items-start justify-between gap-2">
                <p>
                  <b className={f.fault === main?.fault ? "font-bold" : "font-semibold"}>{title(f.fault)}</b>{" "}
                  <span className="text-soft">
                    {f.fault === main?.fault
                      ? main.by === "coach" && main.would_be !== undefined && main.would_be?.fault !== f.fault
                        ? "your main thing"
                        : "main cause"
                      : STATUS[f.status]}
                    , {f.verdict}
                  </span>{" "}
                  {f.side !== "both" &&
                    (f.side === "left" || f.side === "right" ? (
                      <SideMark side={f.side} />
                    ) : (
                      <b className="font-semibold">{plain(f.side)}</b>
                    ))}
                </p>
                {menu(f)}
              </div>
              {f.fault === main?.fault && main.would_be && main.would_be.fault !== f.fault && (
                <p className="text-sm text-soft">The software would have said: {main.would_be.why}</p>
              )}
              {f.fault === main?.fault && <Rivals main={main} />}
              {book?.faults[f.fault]?.figure && (
                <details className="text-sm">
                  <summary className="min-h-7 w-fit cursor-pointer py-1 text-soft">How it looks</summary>
                  <RightAndWrong discipline={book.id} fault={f.fault} figure={book.faults[f.fault]!.figure!} />
                </details>
              )}
              {f.eye && (
                <p className="text-sm">
                  {f.eye.seen ? "Your eye says so; the numbers say no" : "The numbers say so; your eye says no"}
                  {f.eye.segments.some((n) => n !== null) && ` in ${bench.unit} ${f.eye.segments.join(", ")}`}. Your eye
                  counts.
                </p>
              )}
              <p className="flex flex-wrap gap-1 text-sm">
                {firstPerUnit(f.evidence)
                  .slice(0, 12)
                  .map((e) => (
                    <button
                      key={`${e.measure}${e.segment}${e.phase}${e.limb}`}
                      type="button"
                      className="min-h-7 rounded border border-line px-1.5 hover:bg-tint"
                      onClick={() => onEvidence(e)}
                      aria-label={`Show ${bench.measures[e.measure]?.title ?? e.measure} in ${bench.unit} ${e.segment}`}
                    >
                      {bench.unit} {e.segment}
                    </button>
                  ))}
              </p>
            </li>
          ))}
      </ul>
      {unsettled.length > 0 && (
        <details className="text-sm">
          <summary className="cursor-pointer font-semibold">Cannot be settled ({unsettled.length})</summary>
          <ul className="mt-1 grid gap-0.5 text-soft">
            {unsettled.map((f) => (
              <li key={f.fault} className="flex items-start justify-between gap-2">
                <button
                  type="button"
                  className="text-left underline decoration-line underline-offset-4 hover:decoration-current disabled:no-underline"
                  disabled={!f.evidence.length}
                  onClick={() => onEvidence(f.evidence[0]!)}
                >
                  {title(f.fault)}
                </button>
                {menu(f)}
              </li>
            ))}
          </ul>
        </details>
      )}
      {Object.entries(bench.word.dropped).map(([fault, reason]) => (
        <p key={fault} className="flex items-start justify-between gap-2 text-sm text-soft">
          <span>
            <s>{title(fault)}</s> {reason}
          </span>
          <Button
            tone="quiet"
            className="text-sm"
            aria-label={`Take back: ${title(fault)}`}
            onClick={() => onSay({ kind: "drop", faults: [fault], reason: "" })}
          >
            Take back
          </Button>
        </p>
      ))}
      {bench.word.lost.length > 0 && (
        <p role="status" className="text-sm">
          You chose {bench.word.lost.map((x) => `“${x}”`).join(" and ")}; it is not found on this run any more.
        </p>
      )}
      {[...limits.map((x) => x.text), ...beside, ...fairness].map((text) => (
        <p key={text} className="text-sm text-soft">
          {text}
        </p>
      ))}
      {onRate && !bench.doubt && limits.some((x) => x.observation === "rate") && (
        <Button disabled={busy} onClick={onRate} className="w-fit text-sm">
          It plays as fast as life
        </Button>
      )}
      {unlock && (
        <p className="text-sm">
          <b className="font-semibold">To tell more:</b> {unlock}
        </p>
      )}
    </div>
  );
}

/** One piece of evidence for each turn, in order. */
function firstPerUnit(evidence: Schemas["Evidence"][]) {
  const turns = new Map<number, Schemas["Evidence"]>();
  for (const e of evidence) if (e.segment !== null && !turns.has(e.segment)) turns.set(e.segment, e);
  return [...turns.values()].sort((a, b) => a.segment! - b.segment!);
}

/** What was put right on this run, by whom and when. */
export function Corrections({ bench }: { bench: Bench }) {
  if (bench.corrections.length === 0) return null;
  return (
    <details className="border-t border-line px-3 py-2">
      <summary className="cursor-pointer font-semibold">Put right by hand ({bench.corrections.length})</summary>
      <ul className="mt-1 grid gap-0.5 text-sm">
        {bench.corrections.map((c) => (
          <li key={`${c.made}${c.words}`}>
            {c.words}{" "}
            <span className="text-soft">
              by {c.by}, {new Date(c.made).toLocaleString("en-GB", { dateStyle: "short", timeStyle: "short" })}
            </span>
          </li>
        ))}
      </ul>
    </details>
  );
}
