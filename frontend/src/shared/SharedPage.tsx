import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";

import { api, need, type Schemas } from "../api/client";
import { shared } from "../api/queries";
import { Trouble, Waiting } from "../ui/parts";
import { RiderPage } from "./RiderPage";
import { useKeptForLater } from "./useKeptForLater";

/** The rider's page, for whoever holds the link. */
export function SharedPage() {
  const { token } = useParams({ from: "/s/$token" });
  const client = useQueryClient();
  const query = shared(token);
  const data = useQuery({
    ...query,
    // A film that is being made is there after a while.
    refetchInterval: (q) => (q.state.data?.film && !q.state.data.film.url ? 15_000 : false),
  });
  useKeptForLater();
  const put = (part: Partial<Schemas["Shared"]>) =>
    client.setQueryData(query.queryKey, (was) => was && { ...was, ...part });
  const tick = useMutation({
    mutationFn: (body: Schemas["TickGivenRequest"]) =>
      need(api.POST("/api/shared/{token}/ticks", { params: { path: { token } }, body })),
    onSuccess: (ticks) => put({ ticks }),
  });
  if (data.error) return <Trouble error={data.error} />;
  if (!data.data) return <Waiting what="Loading" />;
  return (
    <>
      {tick.error && (
        <p role="alert" className="bg-sheet p-2 text-center text-bad">
          The tick could not be kept: {tick.error.message}
        </p>
      )}
      <RiderPage
        page={data.data}
        base={`/api/shared/${token}`}
        onTick={(drill, step, done) => tick.mutate({ drill, step, done })}
        onLine={async (text) => {
          const lines = await need(
            api.POST("/api/shared/{token}/lines", { params: { path: { token } }, body: { text } }),
          );
          put({ lines });
        }}
      />
    </>
  );
}
