import { useQueryClient } from '@tanstack/react-query'
import { useEffect, useSyncExternalStore } from 'react'
import { shownSince } from '../api/shownLast'
import { whenAt } from './times'

const AGAIN_MS = 10_000
const zone = Intl.DateTimeFormat().resolvedOptions().timeZone

/** That the bench does not answer, and from when that is which stands there instead; asked again until it does. */
export function ShownLast() {
  const since = useSyncExternalStore(shownSince.subscribe, shownSince.now)
  const queries = useQueryClient()
  useEffect(() => {
    if (since === null) return
    const timer = window.setInterval(() => void queries.refetchQueries({ type: 'active' }), AGAIN_MS)
    return () => {
      window.clearInterval(timer)
    }
  }, [since, queries])
  if (since === null) return null
  return (
    <div role="status" className="border-warning bg-accent text-accent-content border-l-4 px-4 py-1.5 text-sm">
      <b>The bench does not answer.</b> This is what it showed {whenAt(since, zone)}; it is asked again by itself.
    </div>
  )
}
