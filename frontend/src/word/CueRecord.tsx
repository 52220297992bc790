import { useQuery } from "@tanstack/react-query";

import { cues } from "../api/queries";

/** What came of a cue when it was given before, over the club; nothing where it never was. */
export function CueRecord({ discipline, fault, cue }: { discipline: string; fault: string; cue: string }) {
  const rows = useQuery({ ...cues(discipline), staleTime: 60_000 }).data?.filter(
    (r) => r.fault === fault && r.cue === cue,
  );
  if (!rows?.length) return null;
  return (
    <>
      {rows.map((r) => (
        <span key={r.level} className="text-soft">
          {" "}
          · {rows.length > 1 && `${r.level}: `}
          {r.says}
        </span>
      ))}
    </>
  );
}
