import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import { queries } from '../api/queries'
import { Strong } from '../ui/text'
import { Walk } from './Walk'

/** The walk of energy of a pack of the shelf with its verdict, wherever that is spoken of; nothing where it is no pack. */
export function PackWalk({ label, linked = true }: { label: string; linked?: boolean }) {
  const packs = useQuery(queries.packs())
  const pack = packs.data?.packs.find((p) => p.label.toLowerCase() === label.toLowerCase())
  if (!pack) return null
  return (
    <figure className="mt-3 overflow-x-auto">
      <figcaption className="text-sm">
        <b>{pack.label}</b>: <Strong text={pack.verdict} />{' '}
        {linked && (
          <Link className="underline underline-offset-2" to={`/packs?pack=${encodeURIComponent(pack.label)}`}>
            its tests
          </Link>
        )}
      </figcaption>
      <Walk stages={pack.stages} name={pack.label} />
      <p className="soft text-xs">Wh of a full pack; broken lines are estimates</p>
    </figure>
  )
}
