import { Link, useLocation } from 'react-router'
import { useHealth } from '../api/useHealth'
import { begun } from './text'
import { whenAt } from './times'

/** What the bench says of itself, closer to where it matters. */
const onBench = (what: string) => what === 'database' || what.startsWith('lane ')

/** What does not work just now, and since when: on every page; nothing while all is well. */
export function Troubles() {
  const health = useHealth()
  const { pathname } = useLocation()
  const troubles = (health?.troubles ?? []).filter((t) => pathname !== '/bench' || !onBench(t.what))
  if (troubles.length === 0) return null
  return (
    <div role="alert" className="border-warning bg-accent text-accent-content border-l-4 px-4 py-1.5 text-sm">
      {troubles.map((t) => (
        <p key={t.what}>
          <b>{begun(t.says)}</b>, since {whenAt(t.since, zone)}.{' '}
          {t.what === 'set aside' ? (
            <Link className="link" to="/bench/aside">
              See what they are
            </Link>
          ) : (
            `${begun(t.mend)}.`
          )}
        </p>
      ))}
    </div>
  )
}

const zone = Intl.DateTimeFormat().resolvedOptions().timeZone
