import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";

import { news } from "../api/queries";

/** Ask the lists again when something has come or changed, and leave them alone when nothing has. */
export function useNews() {
  const client = useQueryClient();
  const version = useQuery(news).data?.version;
  const known = useRef<string | undefined>(undefined);
  useEffect(() => {
    if (version === undefined) return;
    const before = known.current;
    known.current = version;
    if (before !== undefined && before !== version)
      for (const key of ["runs", "desk", "senders"]) void client.invalidateQueries({ queryKey: [key] });
  }, [version, client]);
}
