import type { Schemas } from "../api/client";

/** The few calls of the rider's page. It is read on phones over poor lines: what the coach's pages need besides is left out of it. */

export class Refusal extends Error {
  constructor(
    message: string,
    readonly status: number,
    /** What is wrong with which field of a form. */
    readonly fields: Record<string, string> = {},
  ) {
    super(message);
  }
}

interface Refused {
  problem?: string;
  fields?: Record<string, string>;
}

const PLAIN = "There is no connection. Try again in a minute.";

async function call<T>(path: string, body?: object, again = false): Promise<T> {
  let response: Response;
  try {
    response = await fetch(
      `/api/${path}`,
      body
        ? { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(body) }
        : { headers: again ? { "X-Again": "1" } : {} },
    );
  } catch {
    throw new Refusal(PLAIN, 0);
  }
  const said = (await response.json().catch(() => null)) as (T & Refused) | null;
  if (!response.ok || said === null) throw new Refusal(said?.problem ?? PLAIN, response.status, said?.fields);
  return said;
}

/** The page; `again` where nobody opened it anew. */
export const page = (token: string, again: boolean) => call<Schemas["Shared"]>(`shared/${token}`, undefined, again);
export const tick = (token: string, given: Schemas["TickGivenRequest"]) =>
  call<Schemas["Tick"][]>(`shared/${token}/ticks`, given);
export const line = (token: string, text: string) => call<Schemas["Line"][]>(`shared/${token}/lines`, { text });

/** What a link asks for; who sends by it, whose own page is answered; and that page. */
export const asked = (token: string) => call<Schemas["Asked"]>(`asked/${token}`);
export const begin = (token: string, who: Schemas["SenderRequest"]) => call<Schemas["Token"]>(`asked/${token}`, who);
export const sent = (token: string) => call<Schemas["SendersPage"]>(`sent/${token}`);
export async function takeBack(token: string, clip: number) {
  const response = await fetch(`/api/sent/${token}/taken-back/${clip}`, { method: "DELETE" }).catch(() => null);
  if (response?.ok) return;
  const said = (await response?.json().catch(() => null)) as Refused | null;
  throw new Refusal(said?.problem ?? PLAIN, response?.status ?? 0);
}
