import { useState } from "react";

import { Button } from "./parts";

/** A link to be handed over. */
export function Handed({ title, path, onDone }: { title: string; path: string; onDone?: () => void }) {
  const address = `${location.origin}${path}`;
  const [copied, setCopied] = useState(false);
  return (
    <p className="flex flex-wrap items-center gap-2 rounded border border-warn px-3 py-2">
      <b className="font-semibold">{title}:</b>
      <code className="min-w-0 break-all">{address}</code>
      <Button
        onClick={() =>
          void navigator.clipboard.writeText(address).then(
            () => setCopied(true),
            () => undefined,
          )
        }
      >
        {copied ? "Copied" : "Copy"}
      </Button>
      {onDone && <Button onClick={onDone}>Done</Button>}
    </p>
  );
}
