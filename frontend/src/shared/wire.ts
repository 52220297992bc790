import type { Schemas } from "../api/client";

/** The few calls of the rider's page. It is read on phones over poor lines: what the coach's pages need besides is left out of it. */

export class Refusal extends Error {
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message);
  }
}

const PLAIN = "There is no connection. Try again in a minute.";

async function call<T>(path: string, body?: object, again = false): Promise<T> {
  let response: Response;
  try {
    response = await fetch(
      `/api/shared/${path}`,
      body
        ? { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(body) }
        : { headers: again ? { "X-Again": "1" } : {} },
    );
  } catch {
    throw new Refusal(PLAIN, 0);
  }
  const said = (await response.json().catch(() => null)) as (T & { problem?: string }) | null;
  if (!response.ok || said === null) throw new Refusal(said?.problem ?? PLAIN, response.status);
  return said;
}

/** The page; `again` where nobody opened it anew. */
export const page = (token: string, again: boolean) => call<Schemas["Shared"]>(token, undefined, again);
export const tick = (token: string, given: Schemas["TickGivenRequest"]) =>
  call<Schemas["Tick"][]>(`${token}/ticks`, given);
export const line = (token: string, text: string) => call<Schemas["Line"][]>(`${token}/lines`, { text });
