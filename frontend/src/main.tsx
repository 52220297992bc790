import "./styles.css";

import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { RouterProvider } from "@tanstack/react-router";
import { setNonce } from "get-nonce";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";

import { Problem } from "./api/client";
import { applyLook } from "./app/look";
import { makeRouter } from "./app/router";

applyLook();
// Parts that add a style of their own to the page mark it as ours.
setNonce(document.querySelector<HTMLMetaElement>("meta[name=csp-nonce]")?.content ?? "");
const client = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (count, error) => !(error instanceof Problem && error.status >= 400 && error.status < 500) && count < 2,
    },
  },
});
const router = makeRouter(client);

declare module "@tanstack/react-router" {
  interface Register {
    router: typeof router;
  }
}

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      <RouterProvider router={router} />
    </QueryClientProvider>
  </StrictMode>,
);
