import type { Script } from "../api/client";
import { Card } from "./Card";
import { Texts } from "./Texts";

/** A few words of the coach's own, helped by what they wrote on the Bench and by the club's texts. */
export function Message({
  run,
  script,
  locked,
  value,
  onChange,
  onDone,
}: {
  run: number;
  script: Script;
  locked: boolean;
  value: string;
  onChange: (text: string) => void;
  onDone: () => void;
}) {
  const add = (words: string) => !value.includes(words) && onChange(value ? `${value.trimEnd()}\n${words}` : words);
  return (
    <Card title="Message">
      {locked ? (
        <p className="whitespace-pre-wrap">{script.message || "No message."}</p>
      ) : (
        <textarea
          aria-label="Message to the rider"
          className="w-full rounded border border-line bg-sheet p-2"
          rows={3}
          maxLength={2000}
          value={value}
          onChange={(e) => onChange(e.target.value)}
          onBlur={onDone}
          placeholder="A few words of your own, read first"
        />
      )}
      {!locked && script.noted_words.length > 0 && (
        <div className="mt-1 flex flex-wrap items-center gap-1 text-sm">
          <span className="text-soft">What you wrote on the Bench:</span>
          {script.noted_words.map((words) => (
            <button
              key={words}
              type="button"
              className="min-h-7 rounded border border-line px-2 text-left hover:bg-tint"
              onClick={() => add(words)}
            >
              Add “{words}”
            </button>
          ))}
        </div>
      )}
      {!locked && <Texts run={run} onTake={(x) => add(x.filled)} />}
      {script.closing.map((text) => (
        <p key={text} className="mt-1 text-sm whitespace-pre-wrap text-soft">
          At the end: {text}
        </p>
      ))}
    </Card>
  );
}
