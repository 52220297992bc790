import type { Prescription } from "../api/client";

/** The main cause with what follows from it, drawn as a path from cause to symptoms. */
export function Chain({
  prescription,
  titles,
  words,
}: {
  prescription: Prescription;
  titles: Record<string, string>;
  words?: Record<string, string[]>;
}) {
  const { main, findings } = prescription;
  if (!main) return null;
  const root = findings.find((f) => f.fault === main.fault);
  const name = (fault: string) => titles[fault] ?? fault.replaceAll("_", " ");
  return (
    <div className="grid gap-2">
      <div className="rounded border-2 border-deep px-3 py-2">
        <p className="font-bold">{name(main.fault)}</p>
        {words?.[main.fault]?.slice(0, 2).map((w) => (
          <p key={w} className="text-sm text-soft">
            {w}
          </p>
        ))}
      </div>
      {root?.explains.map((fault) => (
        <div key={fault} className="ml-5 flex items-stretch gap-2">
          <span aria-hidden className="w-4 border-b-2 border-l-2 border-line" style={{ height: "1.2rem" }} />
          <div className="flex-1 rounded border border-line px-3 py-1.5">
            <p>
              <span className="sr-only">leads to </span>
              {name(fault)}
            </p>
            {words?.[fault]?.slice(0, 1).map((w) => (
              <p key={w} className="text-sm text-soft">
                {w}
              </p>
            ))}
          </div>
        </div>
      ))}
    </div>
  );
}
