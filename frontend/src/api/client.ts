import createClient from "openapi-fetch";
import { DetailedError, Upload } from "tus-js-client";

import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type Bench = Schemas["Bench"];
export type Unit = Schemas["ShownUnit"];
export type Reading = Schemas["ShownReading"];
export type Run = Schemas["Run"];
export type Rider = Schemas["Rider"];
export type Script = Schemas["Script"];
export type Finding = Schemas["Finding"];
export type Prescription = Schemas["Prescription"];
export type Discipline = Schemas["Discipline"];

/** An answer of the server that says what went wrong, in one sentence. */
export class Problem extends Error {
  constructor(
    message: string,
    readonly status: number,
    readonly fields: Record<string, string> = {},
    /** What stands there now, where somebody else has changed it meanwhile. */
    readonly theirs: Record<string, unknown> | null = null,
    /** The run that this is about, where it is another. */
    readonly run: number | null = null,
    /** Logging in goes on with the code of the second factor. */
    readonly needsCode = false,
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

interface Said {
  problem?: string;
  fields?: Record<string, string>;
  theirs?: Record<string, unknown>;
  run?: number;
  needs_code?: boolean;
}

/** Called when the server says that nobody is logged in any more. */
let loggedOut = () => {};
export const onLoggedOut = (f: () => void) => {
  loggedOut = f;
};

function asProblem(body: Said | null, status: number): Problem {
  if (status === 403) loggedOut();
  const plain =
    status === 413 ? "The file is too large for this server." : "The server could not answer. Try again in a minute.";
  return new Problem(body?.problem ?? plain, status, body?.fields, body?.theirs, body?.run, body?.needs_code);
}

export async function problemOf(response: Response): Promise<Problem> {
  return asProblem((await response.json().catch(() => null)) as Said | null, response.status);
}

/** What the part of the server that looks after accounts answers. */
export interface Kept<T> {
  status: number;
  data: T;
  meta: Record<string, string>;
}

/** Ask the part of the server that looks after accounts; a Problem says what it refuses. */
export async function account<T>(method: string, path: string, body?: object): Promise<Kept<T>> {
  let answer: Response;
  try {
    answer = await fetch(`/_allauth/browser/v1${path}`, {
      method,
      headers: { "Content-Type": "application/json", "X-CSRFToken": csrf },
      ...(body ? { body: JSON.stringify(body) } : {}),
    });
  } catch {
    throw new Problem("The server cannot be reached. Check that it runs, and try again.", 0);
  }
  const said = (await answer.json().catch(() => null)) as (Kept<T> & { errors?: { message: string }[] }) | null;
  if (answer.status >= 400)
    throw Object.assign(
      new Problem(
        said?.errors?.map((e) => e.message).join(" ") ?? "The server could not answer. Try again.",
        answer.status,
      ),
      { kept: said },
    );
  return said!;
}

/** Unwrap an answer of the client, or throw the Problem it holds. */
export async function need<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  const result = await call.catch(() => {
    throw new Problem("The server cannot be reached. Check that it runs, and try again.", 0);
  });
  if (result.error !== undefined) throw asProblem(result.error, result.response.status);
  return result.data as T;
}

/** Where a file goes: to a run, by its number, or to a session film. */
export type Target = number | `film/${number}`;
const told = (to: Target): Record<string, string> =>
  typeof to === "number" ? { run: String(to) } : { film: to.slice("film/".length) };

const PIECE = 8 * 1024 * 1024;
/** Waits before going on after a broken connection, ms; each piece that arrives starts them again. */
const RETRIES = [0, 500, 1000, 2000, 4000, 8000, 15_000, 30_000];

/**
 * Send a clip in pieces by the tus protocol. A broken connection is gone on from by itself; what was
 * sent of this file to this place before, even before the page was closed, is not sent again.
 */
export function sendClip(
  to: Target,
  file: File,
  onShare: (share: number) => void,
  onWaiting: (waiting: boolean) => void,
  signal: AbortSignal,
): Promise<void> {
  return new Promise((resolve, reject) => {
    const upload = new Upload(file, {
      endpoint: "/api/uploads",
      chunkSize: PIECE,
      retryDelays: RETRIES,
      metadata: { ...told(to), filename: file.name },
      headers: { "X-CSRFToken": csrf },
      removeFingerprintOnSuccess: true,
      onProgress: (sent, of) => {
        onWaiting(false);
        onShare(sent / of);
      },
      onShouldRetry: (error) => {
        const status = error.originalResponse?.getStatus() ?? 0;
        const again = status === 0 || status === 423 || status === 409 || (status >= 500 && status !== 507);
        onWaiting(again);
        return again;
      },
      onSuccess: () => resolve(),
      onError: (error) => reject(sendingProblem(error)),
    });
    signal.addEventListener("abort", () => {
      void upload
        .abort()
        .then(() => reject(new Problem("Sending was stopped. Send the same file again to go on from there.", 0)));
    });
    void upload.findPreviousUploads().then((earlier) => {
      const mine = earlier.find((u) => Object.entries(told(to)).every(([what, n]) => u.metadata[what] === n));
      if (mine) upload.resumeFromPreviousUpload(mine);
      upload.start();
    });
  });
}

function sendingProblem(error: Error | DetailedError): Problem {
  const answer = error instanceof DetailedError ? error.originalResponse : null;
  if (!answer)
    return new Problem(
      "The server cannot be reached. What was sent is kept: send the same file again to go on from there.",
      0,
    );
  try {
    return asProblem(JSON.parse(answer.getBody()) as Said, answer.getStatus());
  } catch {
    return new Problem("The file could not be sent. Send it again; what was sent is kept.", answer.getStatus());
  }
}

/** Send tracks of a clip with progress (fetch cannot tell how much has gone); abort with the signal. */
export function sendTracks(
  runId: number,
  file: File,
  onShare: (share: number) => void,
  signal: AbortSignal,
): Promise<void> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", `/api/runs/${runId}/tracks`);
    request.setRequestHeader("X-CSRFToken", csrf);
    request.upload.onprogress = (e) => e.lengthComputable && onShare(e.loaded / e.total);
    request.onload = () => {
      if (request.status < 300) return resolve();
      reject(asProblem(JSON.parse(request.responseText || "{}") as Said, request.status));
    };
    request.onerror = () => reject(new Problem("The connection broke off while sending. Send it again.", 0));
    request.onabort = () => reject(new Problem("Sending was cancelled.", 0));
    signal.addEventListener("abort", () => request.abort());
    const form = new FormData();
    form.append("file", file);
    request.send(form);
  });
}

/** Send a piece of a recording; `id` null begins one. */
export async function sendSound(
  run: number,
  id: number | null,
  begin: number,
  piece: Blob,
): Promise<{ id: number; size: number }> {
  const base = `/api/runs/${run}/telling/recordings`;
  const response = await fetch(id === null ? base : `${base}/${id}?begin=${begin}`, {
    method: id === null ? "POST" : "PATCH",
    headers: { "X-CSRFToken": csrf, "Content-Type": piece.type.split(";")[0] || "audio/webm" },
    body: piece,
  });
  if (!response.ok) throw await problemOf(response);
  return (await response.json()) as { id: number; size: number };
}
