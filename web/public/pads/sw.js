/** Keeps the pads' page and its files, so that it opens without the net too and says there that it waits. */
const KEPT = 'pads'

self.addEventListener('install', (event) => {
  event.waitUntil(caches.open(KEPT).then((kept) => kept.add('/')))
  self.skipWaiting()
})

self.addEventListener('activate', (event) => event.waitUntil(self.clients.claim()))

self.addEventListener('fetch', (event) => {
  if (event.request.method !== 'GET' || new URL(event.request.url).origin !== self.location.origin) return
  event.respondWith(
    fetch(event.request)
      .then((answer) => {
        if (answer.ok) {
          const copy = answer.clone()
          event.waitUntil(caches.open(KEPT).then((kept) => kept.put(event.request, copy)))
        }
        return answer
      })
      .catch(() => caches.match(event.request).then((found) => found ?? Response.error())),
  )
})
