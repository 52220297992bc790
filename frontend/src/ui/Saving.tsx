import { Problem } from "../api/client";
import { Button } from "./parts";

/** Whether what is typed has been saved. */
export function Saved({ unsaved, saving, error }: { unsaved: boolean; saving: boolean; error?: Error | null }) {
  const words = saving
    ? "Saving…"
    : unsaved
      ? error
        ? "Not saved; it is kept in this browser."
        : "Not saved yet; it is kept in this browser."
      : "Saved";
  return (
    <span role="status" className={`text-sm ${unsaved && error ? "text-bad" : "text-soft"}`}>
      {words}
    </span>
  );
}

/** Two texts where one was changed by somebody else meanwhile; the coach chooses which is to stand. */
export function TwoTexts({
  error,
  mine,
  onMine,
  onTheirs,
}: {
  error: Error | null;
  mine: Record<string, string>;
  onMine: (theirs: Record<string, unknown>) => void;
  onTheirs: () => void;
}) {
  const theirs = error instanceof Problem ? error.theirs : null;
  if (!theirs) return null;
  return (
    <section role="alert" className="grid gap-2 rounded border border-warn bg-sheet px-3 py-2">
      <p>{error!.message}</p>
      {Object.entries(theirs).map(([key, text]) => (
        <div key={key} className="grid gap-2 sm:grid-cols-2">
          <p>
            <b className="font-semibold">Yours:</b>{" "}
            <span className="whitespace-pre-wrap">{mine[key] || "nothing"}</span>
          </p>
          <p>
            <b className="font-semibold">Theirs:</b>{" "}
            <span className="whitespace-pre-wrap">{typeof text === "string" && text ? text : "nothing"}</span>
          </p>
        </div>
      ))}
      <div className="flex gap-2">
        <Button onClick={() => onMine(theirs)}>Keep mine</Button>
        <Button onClick={onTheirs}>Take theirs</Button>
      </div>
    </section>
  );
}
