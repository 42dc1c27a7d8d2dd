import { queries } from '../../api/queries'
import { useQuery } from '@tanstack/react-query'
import type { Lane } from '../../api/bench'
import { ProblemLine } from '../../ui/Problem'

/** The code that brings this one lane onto a phone in the hand. */
export function HandLink({ lane }: { lane: Lane }) {
  const { id, name } = lane.view
  const link = useQuery(queries.laneLink(id))
  if (link.error) return <ProblemLine error={link.error} />
  if (!link.data) return null
  return (
    <div className="border-base-300 mt-1 flex items-start gap-4 border px-3 py-3">
      <img src={`/api/lanes/${id}/link.svg`} alt={`code of lane ${name}`} className="h-40 w-40" />
      <div className="min-w-0 text-sm">
        <p>
          Scan it with a phone: it shows a keypad for lane <b>{name}</b>, and nothing else. It stops working when the lane ends.
        </p>
        <p className="reading mt-1 text-xs break-all">
          <a className="underline underline-offset-2" href={link.data.url}>
            {link.data.url}
          </a>
        </p>
        {link.data.note && <p className="text-warning mt-1">{link.data.note}</p>}
        <details className="soft mt-2 text-xs">
          <summary className="cursor-pointer">push readings to it</summary>
          <p className="reading mt-1 break-all">
            POST /api/lanes/{id}/readings
            <br />
            Authorization: Bearer {link.data.token}
            <br />
            {'{"source": "my meter", "readings": [{"n": 0, "clock_s": 0.0, "volts": 9.02, "amps": 1.97}]}'}
          </p>
          <p className="mt-1">Count n up. A reading that is sent twice is stored once; “committed” means it is stored.</p>
        </details>
      </div>
    </div>
  )
}
