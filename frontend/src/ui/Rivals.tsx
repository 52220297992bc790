import type { Prescription } from "../api/client";

/** What cannot be told apart from the main thing, and what would part the two. */
export function Rivals({ main }: { main: Prescription["main"] }) {
  if (!main?.rivals?.length) return null;
  return (
    <div className="text-sm">
      <p className="font-semibold">Not told apart from it</p>
      <ul className="grid gap-0.5">
        {main.rivals.map((r) => (
          <li key={`${r.kind}${r.fault}`}>
            {r.says}. {r.parts && <span className="text-soft">{r.parts}.</span>}
          </li>
        ))}
      </ul>
    </div>
  );
}
