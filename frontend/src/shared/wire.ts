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

const call = <T>(path: string, body?: object, again = false) =>
  ask<T>(
    path,
    body
      ? { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(body) }
      : { headers: again ? { "X-Again": "1" } : {} },
  );

async function ask<T>(path: string, init: RequestInit): Promise<T> {
  let response: Response;
  try {
    response = await fetch(`/api/${path}`, init);
  } catch {
    throw new Refusal(PLAIN, 0);
  }
  // What was only done says nothing.
  const text = await response.text().catch(() => "");
  const empty = response.ok && text === "" && (response.status === 201 || response.status === 204);
  const said = (empty ? null : parsed(text)) as (T & Refused) | null;
  if (!response.ok || (said === null && !empty))
    throw new Refusal(said?.problem ?? PLAIN, response.status, said?.fields);
  return said as T;
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
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
/** One's own page: who one is, and what is seen, said and asked there. */
export type Who = Schemas["Session"];
export type OwnRider = Schemas["OwnRider"];
let csrf = "";
export async function whoAmI(): Promise<Who> {
  const who = await call<Who>("session");
  csrf = who.csrf;
  return who;
}
const change = <T>(method: string, path: string, body?: object) =>
  ask<T>(path, {
    method,
    headers: { "Content-Type": "application/json", "X-CSRFToken": csrf },
    ...(body ? { body: JSON.stringify(body) } : {}),
  });
export const mine = () => call<Schemas["Mine"]>("mine");
export const answers = (rider: number, offset: number) =>
  call<Schemas["OwnAnswers"]>(`mine/${rider}/answers?offset=${offset}`);
export const agree = (rider: number, said: Schemas["OwnAgreedRequest"]) =>
  change<OwnRider>("POST", `mine/${rider}/agreed`, said);
export const sayFree = (rider: number, free: number[][][] | null) =>
  change<OwnRider>("PATCH", `mine/${rider}`, { free });
export const askToErase = (rider: number, asked: boolean) =>
  change<OwnRider>(asked ? "POST" : "DELETE", `mine/${rider}/erasing`);
type Address = Schemas["CalendarLink"];
export const calendarOf = (rider: number) => call<Address>(`mine/${rider}/calendar`);
export const makeCalendar = (rider: number) => change<Address>("POST", `mine/${rider}/calendar`);
export const withdrawCalendar = (rider: number) => change<Address>("DELETE", `mine/${rider}/calendar`);
export const leave = (rider: number) => change<null>("DELETE", `mine/${rider}`);
export const invited = (token: string) => call<Schemas["InvitedTo"]>(`mine/invitations/${token}`);
export const join = (token: string, said: Schemas["JoinRequest"]) =>
  change<null>("POST", `mine/invitations/${token}`, said);
export const take = (token: string) => change<null>("POST", `mine/invitations/${token}/take`);
export const logIn = (username: string, password: string) => change<Who>("POST", "session", { username, password });
export const logOut = () => change<null>("DELETE", "session");

export async function takeBack(token: string, clip: number) {
  const response = await fetch(`/api/sent/${token}/taken-back/${clip}`, { method: "DELETE" }).catch(() => null);
  if (response?.ok) return;
  const said = (await response?.json().catch(() => null)) as Refused | null;
  throw new Refusal(said?.problem ?? PLAIN, response?.status ?? 0);
}
