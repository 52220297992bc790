import "./styles.css";

import { lazy, StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";

import { applyLook } from "./app/look";
import { SharedPage } from "./shared/SharedPage";

// A rider who reads their page does not fetch what sends clips.
const AskedPage = lazy(() => import("./sending/AskedPage").then((m) => ({ default: m.AskedPage })));
const SendersPage = lazy(() => import("./sending/SendersPage").then((m) => ({ default: m.SendersPage })));

applyLook();
const [, what, token = ""] = location.pathname.split("/");
createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <Suspense>
      {what === "send" ? (
        <AskedPage token={token} />
      ) : what === "sent" ? (
        <SendersPage token={token} />
      ) : (
        <SharedPage token={token} />
      )}
    </Suspense>
  </StrictMode>,
);
