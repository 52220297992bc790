import type { Bench, Schemas, Script } from "../api/client";
import { Button } from "../ui/parts";
import { FindingMenu } from "../word/FindingMenu";
import { Card } from "./Card";

/** What was found on the run beside the one thing, what was dropped, and what cannot be told. */
export function Found({
  run,
  script,
  bench,
  locked,
  onSay,
}: {
  run: number;
  script: Script;
  bench: Bench | undefined;
  locked: boolean;
  onSay: (edit: Schemas["EditRequest"]) => void;
}) {
  const p = script.prescription;
  const title = (f: string) => script.titles[f] ?? f;
  const later = p.findings.filter((f) => f.status === "root" && !p.cues.some((c) => c.fault === f.fault));
  return (
    <Card title="Found">
      <ul className="grid gap-1.5">
        {p.findings.map((f) => (
          <li key={f.fault} className="flex items-start justify-between gap-2">
            <span>
              {title(f.fault)} <span className="text-soft">{f.fault === p.main?.fault ? "main" : f.status}</span>
            </span>
            {!locked && bench && (
              <FindingMenu
                runId={run}
                version={bench.version}
                fault={f.fault}
                title={title(f.fault)}
                prescription={p}
                word={bench.word}
                onSay={onSay}
              />
            )}
          </li>
        ))}
        {Object.entries(script.dropped).map(([f, reason]) => (
          <li key={f} className="flex items-start justify-between gap-2 text-soft">
            <span>
              <s>{title(f)}</s> {reason}
            </span>
            {!locked && (
              <Button tone="quiet" className="text-sm" onClick={() => onSay({ kind: "drop", faults: [f], reason: "" })}>
                Take back
              </Button>
            )}
          </li>
        ))}
        {p.findings.length === 0 && Object.keys(script.dropped).length === 0 && <li className="text-soft">Nothing.</li>}
      </ul>
      {later.length > 0 && (
        <p className="mt-3 text-sm">
          <b className="font-semibold">Kept for later:</b> {later.map((f) => title(f.fault)).join(", ")}
        </p>
      )}
      {[
        ...(p.limits ?? []).map((x) => x.text),
        ...(p.beside ?? []),
        ...(p.fairness ?? []),
        ...(p.weaker_half ? [p.weaker_half.why] : []),
      ].map((text) => (
        <p key={text} className="mt-2 text-sm text-soft">
          {text}
        </p>
      ))}
      {p.unlock && (
        <p className="mt-2 text-sm">
          <b className="font-semibold">To tell more:</b> {p.unlock}
        </p>
      )}
      {p.cannot_tell.length > 0 && (
        <details className="mt-3 text-sm">
          <summary className="cursor-pointer font-semibold">Cannot be told ({p.cannot_tell.length})</summary>
          <ul className="mt-1 grid gap-1 text-soft">
            {p.cannot_tell.map((c) => (
              <li key={c.fault}>
                <b className="font-semibold text-ink">{title(c.fault)}:</b> {c.film_next}
              </li>
            ))}
          </ul>
        </details>
      )}
    </Card>
  );
}
