import "./styles.css";

import { lazy, StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";

import { applyLook } from "./app/look";
import { SharedPage } from "./shared/SharedPage";

// A rider who reads their page does not fetch what sends clips.
const AskedPage = lazy(() => import("./sending/AskedPage").then((m) => ({ default: m.AskedPage })));
const SendersPage = lazy(() => import("./sending/SendersPage").then((m) => ({ default: m.SendersPage })));
const MinePage = lazy(() => import("./mine/MinePage").then((m) => ({ default: m.MinePage })));
const JoinMine = lazy(() => import("./mine/JoinMine").then((m) => ({ default: m.JoinMine })));

applyLook();
const [, what, token = "", invitation = ""] = location.pathname.split("/");
createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <Suspense>
      {what === "send" ? (
        <AskedPage token={token} />
      ) : what === "sent" ? (
        <SendersPage token={token} />
      ) : what === "mine" ? (
        token === "join" ? (
          <JoinMine token={invitation} />
        ) : (
          <MinePage />
        )
      ) : (
        <SharedPage token={token} />
      )}
    </Suspense>
  </StrictMode>,
);
