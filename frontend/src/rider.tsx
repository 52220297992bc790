import "./styles.css";

import { StrictMode } from "react";
import { createRoot } from "react-dom/client";

import { applyLook } from "./app/look";
import { SharedPage } from "./shared/SharedPage";

applyLook();
const token = location.pathname.split("/")[2] ?? "";
createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <SharedPage token={token} />
  </StrictMode>,
);
