import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, need, type Script } from "../api/client";
import { offered as offeredQuery } from "../api/queries";
import { Waiting } from "../ui/parts";
import { Card } from "./Card";

/** What the rider will see of the clip, while the Script is still being written. */
export function Offered({
  run,
  fault,
  script,
  onOffered,
}: {
  run: number;
  fault: string;
  script: Script;
  onOffered: (on: boolean) => void;
}) {
  const client = useQueryClient();
  const pictures = useQuery(offeredQuery(run, fault));
  const drop = useMutation({
    mutationFn: (place: number) =>
      need(api.DELETE("/api/runs/{run}/script/chosen", { params: { path: { run }, query: { place } } })),
    onSuccess: (fresh) => {
      client.setQueryData(["script", run], fresh);
      void client.invalidateQueries({ queryKey: ["offered", run] });
    },
  });
  if (pictures.error || pictures.data?.length === 0) return null;
  return (
    <Card title="Pictures that go with it">
      <label className="mb-2 flex min-h-7 items-center gap-2">
        <input
          type="checkbox"
          className="size-5"
          checked={script.with_offered}
          onChange={(e) => onOffered(e.target.checked)}
        />
        those that are offered; more are chosen in the Telling, from any frame
      </label>
      {pictures.data ? (
        <div className="grid grid-cols-3 gap-3">
          {pictures.data.map((x, k) => (
            <figure key={`${k}${x.caption}`} className={x.chosen || script.with_offered ? "" : "opacity-40"}>
              <img src={x.image} alt={x.caption} className="w-full rounded" />
              <figcaption className="text-sm text-soft">
                {x.caption}
                {x.chosen && (
                  <button
                    type="button"
                    className="ml-1 min-h-7 underline"
                    disabled={drop.isPending}
                    aria-label={`Take out picture ${k + 1}`}
                    onClick={() => drop.mutate(k)}
                  >
                    take out
                  </button>
                )}
              </figcaption>
            </figure>
          ))}
        </div>
      ) : (
        <Waiting what="Cutting the pictures out" />
      )}
    </Card>
  );
}
