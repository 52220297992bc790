import { useQuery } from "@tanstack/react-query";
import { X } from "lucide-react";
import { Dialog as Radix } from "radix-ui";
import { useEffect, useId, useRef, useState, type KeyboardEvent } from "react";

import type { Bench, Schemas, Unit } from "../api/client";
import { notable } from "../api/queries";
import { plain } from "../ui/places";

export type Note = Pick<Schemas["EditRequest"], "fault" | "scope" | "sure" | "seen" | "words" | "t" | "side" | "phase">;
type Sight = "seen" | "maybe" | "none";
const SIGHTS: [Sight, string, string][] = [
  ["seen", "Seen", "Enter"],
  ["maybe", "Maybe", "Shift Enter"],
  ["none", "Looked, not there", "Alt Enter"],
];

/** What the coach sees, said in a few letters: a short list, filtered as one types, the likeliest first. */
export function NotePalette({
  runId,
  bench,
  turn,
  phase,
  t,
  open,
  onOpen,
  onNote,
}: {
  runId: number;
  bench: Bench;
  turn?: Unit;
  phase?: string;
  t: number;
  open: boolean;
  onOpen: (open: boolean) => void;
  onNote: (note: Note) => void;
}) {
  return (
    <Radix.Root open={open} onOpenChange={onOpen} modal={false}>
      <Radix.Portal>
        <Radix.Content
          aria-describedby={undefined}
          className="fixed top-24 right-2 z-40 flex max-h-[80vh] w-[24.2rem] max-w-[96vw] flex-col gap-2 rounded-lg border border-line bg-sheet p-3 text-ink shadow-xl"
        >
          <div className="flex items-center justify-between">
            <Radix.Title className="text-base">What do you see?</Radix.Title>
            <Radix.Close aria-label="Close" className="rounded p-1 hover:bg-tint">
              <X aria-hidden className="size-4" />
            </Radix.Close>
          </div>
          <Inside {...{ runId, bench, turn, phase, t }} onNote={onNote} />
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}

function Inside({ runId, bench, turn, phase, t, onNote }: Omit<Parameters<typeof NotePalette>[0], "open" | "onOpen">) {
  const list = useQuery(notable(runId, bench.version));
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  const [sight, setSight] = useState<Sight>("seen");
  const side = turn?.finest_side ?? turn?.side ?? null;
  const scopes: [NonNullable<Note["scope"]>, string][] = [
    ...(turn ? ([["unit", `This ${bench.unit}`]] as [Note["scope"] & string, string][]) : []),
    ...(turn && phase ? ([["phase", `Its ${plain(phase)}`]] as [Note["scope"] & string, string][]) : []),
    ...(side ? ([["side", `All ${plain(side)}`]] as [Note["scope"] & string, string][]) : []),
    ["run", "Whole run"],
  ];
  const [scope, setScope] = useState(scopes[0]![0]);
  const box = useId();
  const rows = useRef<HTMLUListElement>(null);

  const words = text.trim().toLowerCase().split(/\s+/);
  const titles = new Map(list.data?.items.map((i) => [i.id, i]));
  const order = list.data?.by_phase[phase ?? ""] ?? list.data?.items.map((i) => i.id) ?? [];
  const found = order
    .map((id) => titles.get(id)!)
    .filter((i) => words.every((w) => i.title.toLowerCase().includes(w) || i.id.includes(w)));
  const own = text.trim();
  const count = found.length + (own ? 1 : 0);
  const here = Math.min(at, Math.max(0, count - 1));
  useEffect(() => {
    rows.current?.children[here]?.scrollIntoView?.({ block: "nearest" });
  }, [here]);

  const note = (k: number, how: Sight) => {
    const item = found[k];
    if (!item && !own) return;
    onNote({
      fault: item?.id ?? "",
      words: item ? "" : own,
      scope,
      sure: how !== "maybe",
      seen: item ? how !== "none" : true,
      // Words alone belong to the frame on screen.
      t: scope === "unit" || scope === "phase" || !item ? t : null,
      side: scope === "side" ? side : null,
      phase: scope === "phase" ? phase : null,
    });
  };
  const keys = (e: KeyboardEvent) => {
    if (e.key === "ArrowDown") setAt(Math.min(count - 1, here + 1));
    else if (e.key === "ArrowUp") setAt(Math.max(0, here - 1));
    else if (e.key === "Enter") note(here, e.shiftKey ? "maybe" : e.altKey || e.ctrlKey ? "none" : sight);
    else return;
    e.preventDefault();
  };
  return (
    <>
      <input
        // The palette is opened to type in.
        // eslint-disable-next-line jsx-a11y/no-autofocus
        autoFocus
        role="combobox"
        aria-expanded
        aria-controls={box}
        aria-activedescendant={count ? `${box}-${here}` : undefined}
        aria-label="Fault, sign or strength, or words of your own"
        placeholder="A few letters, or words of your own"
        maxLength={500}
        className="w-full rounded border border-line bg-sheet px-2 py-1.5"
        value={text}
        onChange={(e) => {
          setText(e.target.value);
          setAt(0);
        }}
        onKeyDown={keys}
      />
      <Choice label="Where" options={scopes} value={scope} onChange={setScope} />
      <Choice label="How" options={SIGHTS.map(([id, word]) => [id, word])} value={sight} onChange={setSight} />
      {list.isPending && <p className="text-sm text-soft">Getting the list</p>}
      {list.error && (
        <p role="alert" className="text-sm text-bad">
          {list.error.message}
        </p>
      )}
      <ul ref={rows} id={box} role="listbox" aria-label="What may be noted" className="min-h-0 overflow-auto">
        {found.map((i, k) => (
          <li
            key={i.id}
            id={`${box}-${k}`}
            role="option"
            aria-selected={k === here}
            className={`flex cursor-pointer items-baseline justify-between gap-2 rounded px-2 py-1.5 ${k === here ? "bg-tint" : "hover:bg-tint"}`}
            onClick={() => note(k, sight)}
            onKeyDown={keys}
          >
            <span>{i.title}</span>
            <span className="shrink-0 text-sm text-soft">
              {i.kind === "strength" ? "good" : i.open ? "open" : i.kind === "observation" ? "sign" : ""}
            </span>
          </li>
        ))}
        {own && (
          <li
            id={`${box}-${found.length}`}
            role="option"
            aria-selected={here === found.length}
            className={`cursor-pointer rounded px-2 py-1.5 ${here === found.length ? "bg-tint" : "hover:bg-tint"}`}
            onClick={() => note(found.length, sight)}
            onKeyDown={keys}
          >
            Keep as words: “{own}”
          </li>
        )}
      </ul>
      <p className="text-sm text-soft">{SIGHTS.map(([, word, key]) => `${key}: ${word.toLowerCase()}`).join(" · ")}</p>
    </>
  );
}

function Choice<T extends string>({
  label,
  options,
  value,
  onChange,
}: {
  label: string;
  options: [T, string][];
  value: T;
  onChange: (value: T) => void;
}) {
  return (
    <div role="radiogroup" aria-label={label} className="flex flex-wrap gap-1">
      {options.map(([id, words]) => (
        <button
          key={id}
          type="button"
          role="radio"
          aria-checked={id === value}
          onClick={() => onChange(id)}
          className={`min-h-7 rounded border px-2 text-sm ${id === value ? "border-deep bg-tint font-semibold" : "border-line"}`}
        >
          {words}
        </button>
      ))}
    </div>
  );
}
