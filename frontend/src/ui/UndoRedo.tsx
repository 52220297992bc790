import { Redo2, Undo2 } from "lucide-react";

import { Button } from "./parts";

/** Take back one's own last correction, or put it back. */
export function UndoRedo({
  can_undo,
  can_redo,
  busy,
  onStep,
}: {
  can_undo: boolean;
  can_redo: boolean;
  busy?: boolean;
  onStep: (step: "undo" | "redo") => void;
}) {
  return (
    <>
      <Button onClick={() => onStep("undo")} disabled={!can_undo || busy} aria-label="Undo" title="Undo (Ctrl Z)">
        <Undo2 aria-hidden className="size-4" />
      </Button>
      <Button onClick={() => onStep("redo")} disabled={!can_redo || busy} aria-label="Redo" title="Redo (Ctrl Y)">
        <Redo2 aria-hidden className="size-4" />
      </Button>
    </>
  );
}
