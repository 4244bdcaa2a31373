// Gives a page of a job again when it is opened without a network; it works where the address allows one (https, or this machine).
const pages = "screeline-pages-1";
const files = "screeline-files-1";
self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));
self.addEventListener("fetch", (event) => {
  const { request } = event;
  const url = new URL(request.url);
  if (request.method !== "GET" || url.origin !== location.origin) {
    return;
  }
  const job = request.mode === "navigate" && /^\/jobs\/\d+/.test(url.pathname);
  // Typefaces come straight from the browser's own cache: what comes late is not used at all.
  const file = /^\/(css|js|lib)\//.test(url.pathname) && !url.pathname.startsWith("/lib/fonts/");
  if (!job && !file) {
    return;
  }
  event.respondWith((async () => {
    const cache = await caches.open(job ? pages : files);
    // A file named with its version never changes.
    const known = file && url.searchParams.has("v") ? await cache.match(request) : undefined;
    if (known) {
      return known;
    }
    try {
      const response = await fetch(request);
      if (response.ok && !response.redirected && response.type === "basic") {
        await cache.put(request, response.clone());
      }
      return response;
    } catch (error) {
      const again = (await cache.match(request)) ?? (job ? await cache.match(request, { ignoreSearch: true }) : undefined);
      if (again) {
        return again;
      }
      throw error;
    }
  })());
});
