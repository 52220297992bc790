import { ArrowUp } from "lucide-react";

import { useState } from "react";

import type { Prescription, Schemas } from "../api/client";
import { useDraft } from "../ui/drafts";
import { Button } from "../ui/parts";
import { Card } from "./Card";

/** What is given after the one thing: which of the further causes, in which order, in which words. */
export function Others({
  run,
  prescription: p,
  titles,
  given: kept,
  locked,
  onGiven: onKept,
  onSay,
}: {
  run: number;
  prescription: Prescription;
  titles: Record<string, string>;
  given: string[];
  locked: boolean;
  onGiven: (faults: string[]) => void;
  onSay: (edit: Schemas["EditRequest"]) => void;
}) {
  const cues = new Map(p.cues.filter((c) => c.fault !== p.main?.fault).map((c) => [c.fault, c.cue]));
  // What was pressed stands at once; what is kept then stands in its place.
  const [pressed, setPressed] = useState({ on: kept, value: kept });
  const given = pressed.on === kept ? pressed.value : kept;
  const onGiven = (value: string[]) => {
    setPressed({ on: kept, value });
    onKept(value);
  };
  const rest = [...cues.keys()].filter((f) => !given.includes(f));
  if (cues.size === 0 || (locked && given.length === 0)) return null;
  return (
    <Card title="After that">
      {!locked && (
        <p className="mb-2 text-sm text-soft">
          One thing at a time works best. What is ticked goes with it, in this order, below the one thing.
        </p>
      )}
      <ul className="grid gap-2">
        {[...given, ...(locked ? [] : rest)].map((fault, k) => (
          <li key={fault} className="grid gap-1">
            <span className="flex flex-wrap items-center gap-2">
              {locked ? (
                <b className="font-semibold">{titles[fault] ?? fault}</b>
              ) : (
                <label className="flex min-h-7 items-center gap-2 font-semibold">
                  <input
                    type="checkbox"
                    className="size-5"
                    checked={given.includes(fault)}
                    onChange={(e) => onGiven(e.target.checked ? [...given, fault] : given.filter((f) => f !== fault))}
                  />
                  {titles[fault] ?? fault}
                </label>
              )}
              {!locked && k > 0 && given.includes(fault) && (
                <Button
                  tone="quiet"
                  aria-label={`${titles[fault] ?? fault} earlier`}
                  onClick={() => onGiven(given.toSpliced(k, 1).toSpliced(k - 1, 0, fault))}
                >
                  <ArrowUp aria-hidden className="size-4" />
                </Button>
              )}
            </span>
            {locked ? (
              <span>{cues.get(fault)}</span>
            ) : (
              given.includes(fault) && (
                <OtherCue
                  key={`${fault}${cues.get(fault)}`}
                  run={run}
                  fault={fault}
                  title={titles[fault] ?? fault}
                  cue={cues.get(fault) ?? ""}
                  onSay={onSay}
                />
              )
            )}
          </li>
        ))}
      </ul>
    </Card>
  );
}

function OtherCue({
  run,
  fault,
  title,
  cue,
  onSay,
}: {
  run: number;
  fault: string;
  title: string;
  cue: string;
  onSay: (edit: Schemas["EditRequest"]) => void;
}) {
  const draft = useDraft(`script/${run}/cue/${fault}`, cue);
  return (
    <textarea
      aria-label={`Cue for ${title}`}
      className="w-full rounded border border-line bg-sheet p-2"
      rows={2}
      maxLength={400}
      value={draft.value}
      onChange={(e) => draft.set(e.target.value)}
      onBlur={() => {
        if (!draft.unsaved || !draft.value.trim()) return;
        onSay({ kind: "cue", fault, cue: draft.value.trim() });
        draft.clear();
      }}
    />
  );
}
