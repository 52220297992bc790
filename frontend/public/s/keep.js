/* Keeps a rider's page for when there is no network: what was opened once opens again. */
const KEPT = "riders-page-1";

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));

const wanted = (url) =>
  url.origin === location.origin &&
  (/^\/s\//.test(url.pathname) ||
    /^\/assets\//.test(url.pathname) ||
    /^\/api\/figures\//.test(url.pathname) ||
    /^\/api\/shared\/[^/]+(\/pictures\/\d+|\/captions)?$/.test(url.pathname));

self.addEventListener("fetch", (event) => {
  const { request } = event;
  const url = new URL(request.url);
  if (request.method !== "GET" || !wanted(url)) return;
  event.respondWith(
    (async () => {
      const kept = await caches.open(KEPT);
      try {
        const answer = await fetch(request);
        if (answer.ok) await kept.put(request, answer.clone());
        // A link that was withdrawn, or has ended, is not shown from what was kept.
        else if (answer.status === 404 && url.pathname.startsWith("/api/shared/")) {
          for (const key of await kept.keys())
            if (new URL(key.url).pathname.startsWith(url.pathname)) await kept.delete(key);
          // The page itself holds what is read first; as it is now it holds nothing any more.
          const page = url.pathname.replace("/api/shared/", "/s/").split("/").slice(0, 3).join("/");
          await kept.delete(page, { ignoreVary: true });
          await fetch(page)
            .then((empty) => kept.put(page, empty))
            .catch(() => undefined);
        }
        return answer;
      } catch (error) {
        const before = await kept.match(request, { ignoreVary: true });
        if (before) return before;
        throw error;
      }
    })(),
  );
});
