import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Check, X } from "lucide-react";
import { useEffect, useRef, useState } from "react";

import { api, need } from "../api/client";
import { FigureOf } from "../ui/FigureOf";
import { Button } from "../ui/parts";
import { Choices, Line, Moment, Order, Pictures } from "./Questions";
import { EXERCISES, type Given, type Item, type Scored } from "./types";
import { useAhead } from "./useAhead";

/** A session ends after so many looks or seconds, whichever comes first. */
const LOOKS = 20;
const SECONDS = 300;

interface Props {
  first: Item[];
  wanted: { discipline: string; exercise: string };
  onEnd: () => void;
}

/** One item after another, the truth at once after each, and at the end what it came to. */
export function Session({ first, wanted, onEnd }: Props) {
  const client = useQueryClient();
  const ahead = useAhead(first, wanted);
  const [done, setDone] = useState<{ item: Item; scored: Scored }[]>([]);
  const [scored, setScored] = useState<Scored | null>(null);
  const [late, setLate] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => setLate(true), SECONDS * 1000);
    return () => clearTimeout(timer);
  }, []);
  const item = ahead.item;
  const asked = useRef(0);
  useEffect(() => {
    asked.current = performance.now();
  }, [item?.id]);
  const answer = useMutation({
    mutationFn: (given: Given) =>
      need(
        api.POST("/api/eye/items/{item}/answer", {
          params: { path: { item: item!.id } },
          body: { given, took_s: (performance.now() - asked.current) / 1000 },
        }),
      ),
    onSuccess: (s) => {
      setScored(s);
      setDone((old) => [...old, { item: item!, scored: s }]);
    },
  });
  const over = done.length >= LOOKS || late || (!item && !ahead.waiting);
  const [ended, setEnded] = useState(false);
  const leave = () => {
    void client.invalidateQueries({ queryKey: ["eye"] });
    onEnd();
  };
  const next = () => {
    setScored(null);
    answer.reset();
    ahead.next();
  };
  if (ended || (!scored && over)) return <Summary done={done} onEnd={leave} />;
  return (
    <div className="mx-auto grid max-w-4xl gap-3 p-3">
      <header className="flex flex-wrap items-center gap-x-4 gap-y-1">
        <h1 className="mr-auto text-lg">
          {item ? EXERCISES[item.exercise] : "Eye"}
          {item && (
            <span className="text-base text-soft">
              {" "}
              · {item.title}, {item.level}, from {item.view}
            </span>
          )}
        </h1>
        <span className="text-soft tabular-nums">
          {done.length + (scored ? 0 : 1)} of {LOOKS}
        </span>
        <Button tone="quiet" onClick={() => (done.length ? setEnded(true) : leave())}>
          End
        </Button>
      </header>
      {item ? (
        <One
          key={item.id}
          item={item}
          scored={scored}
          error={answer.error}
          busy={answer.isPending}
          onGive={(g) => answer.mutate(g)}
          onNext={next}
        />
      ) : (
        <p role="status" className="p-8 text-center text-soft">
          {ahead.error ? ahead.error.message : "The next rider is on the way."}
        </p>
      )}
    </div>
  );
}

interface OneProps {
  item: Item;
  scored: Scored | null;
  error: Error | null;
  busy: boolean;
  onGive: (given: Given) => void;
  onNext: () => void;
}

/** One question with its pictures; after the answer its truth lies over them. */
function One({ item, scored, error, busy, onGive, onNext }: OneProps) {
  const next = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    if (scored) next.current?.focus();
  }, [scored]);
  const props = { item, scored, busy, onGive };
  return (
    <section aria-label="Question" className="grid gap-3 rounded-lg border border-line bg-sheet p-3 sm:p-4">
      <p className="text-lg font-semibold">{item.ask}</p>
      <div className="grid gap-4 md:grid-cols-[minmax(0,1fr)_minmax(0,18rem)]">
        {item.exercise === "frame" ? (
          <Moment {...props} />
        ) : item.exercise === "angle" ? (
          <Line {...props} />
        ) : (
          <>
            <Pictures item={item} />
            {item.exercise === "cause" ? <Order {...props} /> : <Choices {...props} />}
          </>
        )}
      </div>
      {error && (
        <p role="alert" className="text-bad">
          {error.message}
        </p>
      )}
      {scored && (
        <div className="grid gap-2 border-t border-line pt-3">
          <div role="status" className="flex items-start gap-2">
            {scored.right ? (
              <Check aria-hidden className="mt-0.5 size-5 shrink-0 text-good" />
            ) : (
              <X aria-hidden className="mt-0.5 size-5 shrink-0 text-bad" />
            )}
            <p>
              <b className="font-semibold">{scored.right ? "Right." : "Not so."}</b> {scored.truth}
              {scored.says && ` Yours: ${scored.says}.`}
            </p>
          </div>
          <Button ref={next} tone="main" className="w-fit" onClick={onNext}>
            Next
          </Button>
          {scored.fault && item.exercise !== "angle" && (
            <details>
              <summary className="min-h-7 cursor-pointer text-sm">How it looks</summary>
              <div className="max-w-xl">
                <FigureOf discipline={item.discipline} fault={scored.fault} />
              </div>
            </details>
          )}
        </div>
      )}
    </section>
  );
}

function Summary({ done, onEnd }: { done: { item: Item; scored: Scored }[]; onEnd: () => void }) {
  const right = done.filter((d) => d.scored.right).length;
  const kinds = [...new Set(done.map((d) => d.item.exercise))];
  const missed = done.filter((d) => !d.scored.right);
  return (
    <div className="mx-auto grid max-w-2xl gap-3 p-4">
      <section className="grid gap-3 rounded-lg border border-line bg-sheet p-4" aria-label="What it came to">
        <h1 className="text-xl">{done.length === 0 ? "Nothing more is ready" : `${right} of ${done.length} right`}</h1>
        <ul>
          {kinds.map((k) => {
            const of = done.filter((d) => d.item.exercise === k);
            return (
              <li key={k}>
                {EXERCISES[k]}: {of.filter((d) => d.scored.right).length} of {of.length}
              </li>
            );
          })}
        </ul>
        {missed.length > 0 && (
          <details>
            <summary className="min-h-7 cursor-pointer">What comes again soon ({missed.length})</summary>
            <ul className="list-disc pl-5 text-sm">
              {missed.map((d, k) => (
                <li key={k}>
                  {d.item.title}: {d.scored.truth}
                </li>
              ))}
            </ul>
          </details>
        )}
        <Button tone="main" className="w-fit" onClick={onEnd}>
          To the profile
        </Button>
      </section>
    </div>
  );
}
