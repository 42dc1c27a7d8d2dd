/* The pages and what they are made of, kept so that they open when the bench is away. Answers of the bench are not its business. */
const SHELL = 'shell-1'
const PAGE = '/'
const MOST_PARTS = 80
const PATIENCE_MS = 4000

const isPart = (path) => path.startsWith('/assets/') || /^\/(favicon\.svg|icon-[\w-]+\.png|manifest\.webmanifest)$/.test(path)
const isPage = (path) => !path.startsWith('/api/') && !path.startsWith('/shared/') && !path.startsWith('/trust') && !path.startsWith('/authority')

const keepParts = async (cache, text) => {
  const parts = [...text.matchAll(/(?:src|href)="(\/[^"]+)"/g)].map((m) => m[1]).filter(isPart)
  await Promise.all(
    parts.map(async (part) => {
      if (await cache.match(part)) return
      const answer = await fetch(part)
      if (answer.ok) await cache.put(part, answer)
    }),
  )
  const known = await cache.keys()
  const old = known.filter((k) => new URL(k.url).pathname !== PAGE).slice(0, Math.max(0, known.length - MOST_PARTS))
  await Promise.all(old.map((k) => cache.delete(k)))
}

const keepPage = async (answer) => {
  const whole = answer.ok && answer.type === 'basic' && !answer.redirected && (answer.headers.get('content-type') ?? '').includes('html')
  if (!whole) return
  const cache = await caches.open(SHELL)
  const text = await answer.clone().text()
  await cache.put(PAGE, answer)
  await keepParts(cache, text)
}

self.addEventListener('install', (event) => {
  event.waitUntil(
    (async () => {
      await keepPage(await fetch(PAGE, { cache: 'no-store' }))
      await self.skipWaiting()
    })(),
  )
})

self.addEventListener('activate', (event) => {
  event.waitUntil(self.clients.claim())
})

const opened = async (event) => {
  const kept = await (await caches.open(SHELL)).match(PAGE)
  const asked = fetch(event.request)
  asked.then((answer) => event.waitUntil(keepPage(answer.clone()).catch(() => undefined))).catch(() => undefined)
  if (!kept) return asked
  const late = new Promise((give) => setTimeout(() => give(kept), PATIENCE_MS))
  return Promise.race([asked.catch(() => kept), late])
}

const part = async (request) => {
  const cache = await caches.open(SHELL)
  const kept = await cache.match(request)
  if (kept) return kept
  const answer = await fetch(request)
  if (answer.ok) await cache.put(request, answer.clone())
  return answer
}

self.addEventListener('fetch', (event) => {
  const { request } = event
  const { origin, pathname } = new URL(request.url)
  if (request.method !== 'GET' || origin !== self.location.origin) return
  if (request.mode === 'navigate' && isPage(pathname)) event.respondWith(opened(event))
  else if (isPart(pathname)) event.respondWith(part(request))
})
