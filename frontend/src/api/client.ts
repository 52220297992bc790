import createClient from "openapi-fetch";

import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type Bench = Schemas["Bench"];
export type Turn = Schemas["Turn"];
export type Reading = Schemas["Reading"];
export type Run = Schemas["Run"];
export type Rider = Schemas["Rider"];
export type Script = Schemas["Script"];
export type Prescription = Schemas["Prescription"];
export type Discipline = Schemas["Discipline"];

/** An answer of the server that says what went wrong, in one sentence. */
export class Problem extends Error {
  constructor(
    message: string,
    readonly status: number,
    readonly fields: Record<string, string> = {},
  ) {
    super(message);
  }
}

let csrf = "";
export const setCsrf = (token: string) => {
  csrf = token;
};

export const api = createClient<paths>({ baseUrl: "/" });
api.use({
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRFToken", csrf);
    return request;
  },
});

export async function problemOf(response: Response): Promise<Problem> {
  const body = (await response.json().catch(() => null)) as { problem?: string; fields?: Record<string, string> } | null;
  const plain = response.status === 413 ? "The file is too large for this server." : "The server could not answer. Try again in a minute.";
  return new Problem(body?.problem ?? plain, response.status, body?.fields);
}

/** Unwrap an answer of the client, or throw the Problem it holds. */
export async function need<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  const result = await call.catch(() => {
    throw new Problem("The server cannot be reached. Check that it runs; nothing was lost.", 0);
  });
  if (result.error !== undefined) {
    const body = result.error as { problem?: string; fields?: Record<string, string> };
    throw new Problem(body.problem ?? "The server could not answer. Try again in a minute.", result.response.status, body.fields);
  }
  return result.data as T;
}

/** Send a clip, or tracks of it, with progress (fetch cannot tell how much has gone); abort with the signal. */
export function upload(runId: number, file: File, what: "upload" | "tracks", onShare: (share: number) => void, signal: AbortSignal): Promise<Run> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", `/api/runs/${runId}/${what}`);
    request.setRequestHeader("X-CSRFToken", csrf);
    request.upload.onprogress = (e) => e.lengthComputable && onShare(e.loaded / e.total);
    request.onload = () => {
      const body = JSON.parse(request.responseText || "{}") as Run & { problem?: string };
      if (request.status < 300) resolve(body);
      else reject(new Problem(body.problem ?? "The file could not be sent. Try again.", request.status));
    };
    request.onerror = () => reject(new Problem("The connection broke off while sending. Send it again.", 0));
    request.onabort = () => reject(new Problem("Sending was cancelled.", 0));
    signal.addEventListener("abort", () => request.abort());
    const form = new FormData();
    form.append("file", file);
    request.send(form);
  });
}
