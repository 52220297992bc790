import { useEffect } from "react";

/** Keep this page in the browser, so that it opens again with no network. */
export function useKeptForLater() {
  useEffect(() => {
    if (!("serviceWorker" in navigator)) return;
    // A browser that keeps nothing still shows the page.
    navigator.serviceWorker.register("/s/keep.js", { scope: "/s/" }).catch(() => undefined);
  }, []);
}
