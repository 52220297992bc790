import { CircleAlert, CircleCheck, CircleHelp, Minus } from "lucide-react";

import type { Schemas } from "../api/client";

const LOOK = {
  in_band: [CircleCheck, "text-good"],
  better: [CircleCheck, "text-good"],
  no_change: [Minus, "text-soft"],
  worse: [CircleAlert, "text-bad"],
  cannot_tell: [CircleHelp, "text-soft"],
} as const;

/** Each target with what was measured then and now, and what that comes to. */
export function Targets({ rows }: { rows: Schemas["TargetSeen"][] }) {
  return (
    <ul className="grid gap-1.5">
      {rows.map((r) => {
        const [Icon, colour] = r.verdict ? LOOK[r.verdict as keyof typeof LOOK] : [CircleHelp, "text-soft"];
        return (
          <li key={r.target} className="flex gap-2">
            <Icon aria-hidden className={`mt-0.5 size-4 shrink-0 ${colour}`} />
            <span>
              <b className={`font-semibold ${colour}`}>{r.says}</b> <span className="text-soft">·</span> {r.target}
              <span className="block text-sm text-soft">
                {r.before ? `${r.before} then` : "not measured then"}
                {r.verdict && `, ${r.now || "not measured"} now`}
              </span>
            </span>
          </li>
        );
      })}
    </ul>
  );
}
