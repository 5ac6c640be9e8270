/// <reference lib="webworker" />
// Keeps the program itself on the device, so that a page opens where the server cannot be reached. It keeps no answer of the server:
// a pressure that is not now is worse than none.
import { cleanupOutdatedCaches, precacheAndRoute } from "workbox-precaching";
import { NavigationRoute, registerRoute } from "workbox-routing";
import { CacheFirst, NetworkFirst } from "workbox-strategies";

declare const self: ServiceWorkerGlobalScope;
declare const __FILES: { url: string; revision: null }[];

void self.skipWaiting();
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));
cleanupOutdatedCaches();
// names carry a hash of their content: what is kept is never stale
precacheAndRoute(__FILES);
// the letters of far languages come when a page first needs them
registerRoute(({ url, sameOrigin }) => sameOrigin && url.pathname.startsWith("/assets/"), new CacheFirst({ cacheName: "letters" }));

/** Every view is the one page; where it cannot be had, the one that came last stands in for it. */
const page = new NetworkFirst({
  cacheName: "page",
  networkTimeoutSeconds: 3,
  plugins: [
    {
      cacheKeyWillBeUsed: async () => "/",
      // a proxy's own error page is none of ours
      fetchDidSucceed: async ({ response }) => {
        if (response.status >= 500) throw new Error(`answered with ${response.status}`);
        return response;
      },
      cacheWillUpdate: async ({ response }) => (response.status === 200 && !response.redirected ? response : null),
    },
  ],
});
registerRoute(new NavigationRoute(page, { denylist: [/^\/api\//, /\.[a-z0-9]+$/] }));
