import { Link } from 'react-router'
import { laneNow, type Lane } from '../api/bench'
import { useBench, useSecond } from '../api/useBench'
import { apart } from './times'
import { degreesText } from './format'
import { useSettings } from '../reader/settings'

/** What is live now, on every station: lanes running, the hottest phone, the next check-in. */
export function LiveHeader() {
  const { lanes } = useBench()
  const { degrees } = useSettings()
  useSecond()
  const running = lanes.filter((l) => l.view.state === 'running')
  if (lanes.length === 0) return null
  const hottest = running.filter((l) => l.view.hottest_c !== null).sort((a, b) => (b.view.hottest_c ?? 0) - (a.view.hottest_c ?? 0))[0]
  const next = running.filter((l) => l.view.due.at_s !== null && l.view.due.state !== 'none').sort((a, b) => away(a) - away(b))[0]
  return (
    <Link to="/bench" className="flex items-baseline gap-4 text-sm whitespace-nowrap max-sm:py-2.5">
      <span>
        <b>{running.length}</b> {running.length === 1 ? 'lane' : 'lanes'} running
      </span>
      {hottest && (
        <span className="max-md:hidden">
          hottest <span className="reading">{degreesText(hottest.view.hottest_c ?? 0, degrees)} °{degrees}</span> lane {hottest.view.name}
        </span>
      )}
      {next && (
        <span>
          check-in <b>{next.view.name} {next.view.due.state === 'late' ? `late by ${apart(away(next))}` : next.view.due.state === 'due' ? 'now' : `in ${apart(away(next))}`}</b>
        </span>
      )}
    </Link>
  )
}

const away = (lane: Lane) => (lane.view.due.at_s ?? 0) - laneNow(lane)
