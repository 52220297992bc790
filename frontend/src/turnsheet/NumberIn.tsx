import { CircleAlert, CircleCheck, CircleHelp } from "lucide-react";

import type { Schemas } from "../api/client";

type Read = Schemas["SheetValue"];
export const BANDS: Record<NonNullable<Read["band"]>, string> = {
  inside: "as wanted",
  outside: "not as wanted",
  unsure: "its ± does not tell whether it is as wanted",
};
const LOOK = {
  inside: [CircleCheck, "text-good"],
  outside: [CircleAlert, "text-bad"],
  unsure: [CircleHelp, "text-soft"],
} as const;

/** A number with its ±, whether it is as wanted, and whether it stands out among its like. */
export function NumberIn({ read }: { read: Read | null }) {
  if (!read) return <span className="text-sm text-soft">not read</span>;
  const [Icon, colour] = read.band ? LOOK[read.band] : [null, ""];
  return (
    <span
      className={`inline-flex items-center gap-1 text-sm ${colour}`}
      title={read.band ? BANDS[read.band] : undefined}
    >
      {Icon && <Icon aria-hidden className="size-3.5 shrink-0" />}
      <b className="font-semibold">{read.says}</b>
      {read.band && <span className="sr-only">, {BANDS[read.band]}</span>}
      {read.stands_out && <span className="rounded bg-deep px-1 text-on-deep">stands out</span>}
    </span>
  );
}
