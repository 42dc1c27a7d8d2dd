import type { Middleware } from 'openapi-fetch'

/** Answers of the bench as they were shown last, kept by this browser: what a page opens with while the bench is away. */
const STORE = 'shown-last'
const AT = 'shown-at'
const MOST_BYTES = 3_000_000
const MOST_ANSWERS = 150
/** Not kept: what is a secret, what is a file, what says how things are just now. */
const NOT_KEPT = /^\/api\/(hand|exports|sign-in|sign-ins|network|health|audit|people|events|bench\/events)/

let since: string | null = null
const listeners = new Set<() => void>()

function tell(next: string | null) {
  if (next === since) return
  since = next
  for (const listener of listeners) listener()
}

/** When that was shown which stands there although the bench does not answer; null while it answers. */
export const shownSince = {
  now: () => since,
  subscribe: (listener: () => void) => {
    listeners.add(listener)
    return () => {
      listeners.delete(listener)
    }
  },
}

/** Only a page that came with TLS, or from this machine, has such a store. */
const store = async () => ('caches' in window ? window.caches.open(STORE) : null)

const keepable = (request: { method: string; url: string }) => request.method === 'GET' && !NOT_KEPT.test(new URL(request.url, window.location.href).pathname)

async function keep(url: string, answer: Response) {
  const text = await answer.text()
  const cache = await store()
  if (!cache || text.length > MOST_BYTES) return
  await cache.put(url, new Response(text, { headers: { 'content-type': 'application/json', [AT]: new Date().toISOString() } }))
  const known = await cache.keys()
  await Promise.all(known.slice(0, Math.max(0, known.length - MOST_ANSWERS)).map((k) => cache.delete(k)))
}

/** Keep an answer that has come, beside its use. */
export function keepShown(request: { method: string; url: string }, answer: Response) {
  tell(null)
  if (!keepable(request) || !answer.ok || !answer.headers.get('content-type')?.startsWith('application/json')) return
  keep(request.url, answer.clone()).catch(() => {
    // A browser that keeps nothing shows nothing while the bench is away.
  })
}

/** What was shown last of an address that does not answer; null where nothing was. */
export async function lastShown(request: { method: string; url: string }): Promise<Response | null> {
  if (!keepable(request)) return null
  const kept = await (await store())?.match(request.url)
  if (!kept) return null
  tell(kept.headers.get(AT))
  return kept
}

/** Forget all of it: whoever is signed out leaves nothing behind. */
export async function forgetShown() {
  if ('caches' in window) await window.caches.delete(STORE)
}

/** Answers are kept, and stand in where the bench does not answer. */
export const keepsLast: Middleware = {
  onResponse({ request, response }) {
    // One that stands in for the bench is no answer of it.
    if (response.headers.has(AT)) return
    if (response.status === 401) void forgetShown()
    keepShown(request, response)
  },
  async onError({ request }) {
    // What was given up by the page itself is no silence of the bench.
    if (request.signal.aborted) return undefined
    return (await lastShown(request)) ?? undefined
  },
}
