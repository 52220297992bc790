import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render } from "@testing-library/react";
import type { ReactElement } from "react";
import { vi } from "vitest";

import { api } from "./api/client";

/** A value, or a function of the call's body and parameters. */
type Answer = unknown;
/** What a made-up server refuses, in its own words. */
export class Refused {
  constructor(
    readonly problem: string,
    readonly status = 400,
    readonly theirs?: object,
  ) {}
}

/** Answer the client's calls from a table of "GET /api/…"; returns the calls that came, in order. */
export function answering(table: Record<string, Answer>) {
  const calls: { call: string; body: unknown; params: unknown }[] = [];
  for (const method of ["GET", "POST", "PUT", "PATCH", "DELETE"] as const)
    vi.spyOn(api, method as "GET").mockImplementation((async (
      path: string,
      given?: { body?: unknown; params?: unknown },
    ) => {
      const call = `${method} ${path}`;
      calls.push({ call, body: given?.body, params: given?.params });
      const entry = table[call];
      if (entry === undefined) throw new Error(`nobody answers ${call}`);
      const data =
        typeof entry === "function"
          ? await (entry as (b: unknown, p: unknown) => unknown)(given?.body, given?.params)
          : entry;
      if (data instanceof Refused)
        return { error: { problem: data.problem, theirs: data.theirs }, response: { status: data.status } };
      return { data, response: { status: 200 } };
    }) as never);
  return calls;
}

/** Put a part of the application on a page of its own, with nothing asked twice. */
export function show(part: ReactElement) {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false }, mutations: { retry: false } } });
  return render(<QueryClientProvider client={client}>{part}</QueryClientProvider>);
}
