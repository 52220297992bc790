import { Button } from "./parts";
import type { Sending } from "./useSend";

/** Where somebody chooses the clip to send. */
export function ChooseClip({
  label,
  onFile,
  disabled,
}: {
  label: string;
  onFile: (file: File) => void;
  disabled?: boolean;
}) {
  return (
    <input
      type="file"
      aria-label={label}
      disabled={disabled}
      accept="video/*,.mp4,.mov,.m4v,.mkv,.webm,.avi"
      className="min-h-10 w-full rounded border border-line bg-sheet p-1.5"
      onChange={(e) => {
        const file = e.target.files?.[0];
        if (file) onFile(file);
        e.target.value = "";
      }}
    />
  );
}

/** How far a clip is on its way, and what went wrong with it. */
export function OnItsWay({ sending }: { sending: Sending }) {
  const { share, waiting, problem, stop } = sending;
  return (
    <>
      {share !== null && (
        <div className="flex items-center gap-3">
          <progress className="h-3 flex-1" value={share} max={1} aria-label="Sending" />
          <span className="text-sm text-soft">
            {waiting ? "waiting for the connection" : `${Math.floor(100 * share)} %`}
          </span>
          <Button onClick={stop}>Stop</Button>
        </div>
      )}
      {problem && (
        <p role="alert" className="text-sm text-bad">
          {problem}
        </p>
      )}
    </>
  );
}
