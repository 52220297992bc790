import { useState } from "react";

import { Dialog } from "./Dialog";
import { Button } from "./parts";

/** A button that says what it will do and asks once more before it does. */
export function Sure({
  label,
  title,
  about,
  tone = "plain",
  disabled,
  onDo,
}: {
  label: string;
  title: string;
  about: string;
  tone?: "plain" | "bad";
  disabled?: boolean;
  onDo: () => void;
}) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button tone={tone} disabled={disabled} onClick={() => setOpen(true)}>
        {label}
      </Button>
      <Dialog title={title} about={about} open={open} onOpen={setOpen}>
        <div className="flex justify-end gap-2">
          <Button onClick={() => setOpen(false)}>Leave it</Button>
          <Button
            tone="main"
            onClick={() => {
              setOpen(false);
              onDo();
            }}
          >
            {label}
          </Button>
        </div>
      </Dialog>
    </>
  );
}
