import { Link } from 'react-router'
import type { Shape } from '../api/client'
import { degreesText } from '../ui/format'
import { useSettings } from '../reader/settings'
import { clockAt, dateAt } from '../ui/times'
import { SortHead, useSorted } from '../ui/useSorted'
import { Simulated } from './Simulated'
import { Wide } from '../ui/Wide'

type Row = Shape['SpotRow']

const COLUMNS = {
  when: { value: (r: Row) => r.at },
  phone: { value: (r: Row) => r.phone },
  chain: { value: (r: Row) => r.label },
  settled: { value: (r: Row) => r.settled_w?.value, most: true },
  ramp: { value: (r: Row) => r.ramp_s },
  volts: { value: (r: Row) => r.volts, most: true },
  start: { value: (r: Row) => r.start_percent },
  heat: { value: (r: Row) => r.hottest_c, most: true },
  behaves: { value: (r: Row) => r.seems },
}

/** Spot checks as a table: a row each, in the order of their making or of any column. */
export function SpotTable({ rows, dated = false }: { rows: Row[]; dated?: boolean }) {
  const { degrees } = useSettings()
  const sorted = useSorted(rows, COLUMNS, 'when')
  const most = Math.max(10, ...rows.map((r) => r.settled_w?.value ?? 0))
  return (
    <Wide least={34} className="w-full text-sm" aria-label="spot checks">
      <thead>
        <tr className="soft text-left text-xs">
          <SortHead sorted={sorted} by="when" className="w-24 text-left">
            when
          </SortHead>
          <SortHead sorted={sorted} by="phone" className="text-left">
            phone
          </SortHead>
          <SortHead sorted={sorted} by="chain" className="text-left">
            chain
          </SortHead>
          <SortHead sorted={sorted} by="settled" className="w-60 text-left">
            settled at the meter
          </SortHead>
          <SortHead sorted={sorted} by="ramp">ramp</SortHead>
          <SortHead sorted={sorted} by="volts">volts</SortHead>
          <SortHead sorted={sorted} by="start">from</SortHead>
          <SortHead sorted={sorted} by="heat">°{degrees}</SortHead>
          <SortHead sorted={sorted} by="behaves" className="pl-5 text-left">
            behaves
          </SortHead>
        </tr>
      </thead>
      <tbody>
        {sorted.rows.map((r) => (
          <tr key={r.lane} className={`border-base-300 border-t align-top ${r.outcome === 'void' ? 'line-through opacity-60' : ''}`}>
            <td className="soft py-1.5 pr-2 text-xs leading-5 whitespace-nowrap" title={`${dateAt(r.at, r.zone)}, ${clockAt(r.at, r.zone)} (${r.zone})`}>
              {dated ? dateAt(r.at, r.zone) : clockAt(r.at, r.zone)}
            </td>
            <td className="py-1.5 pr-3">
              {r.simulated && <Simulated />}
              {r.phone}
            </td>
            <td className="py-1.5 pr-3">{r.run ? <Link className="underline decoration-dotted underline-offset-2" to={`/runs/${r.run}`}>{r.label}</Link> : r.label}</td>
            <td className="py-1.5">
              {r.settled_w === null ? (
                <span className="soft">{r.state === 'setting' ? 'waits for the phone' : r.state === 'running' ? (r.by_hand ? 'type the watts' : 'measuring …') : 'nothing after 45 s'}</span>
              ) : (
                <span className="flex items-center gap-2">
                  <span className="border-base-content bg-base-200 h-4 shrink-0 border" style={{ width: `${String((r.settled_w.value / most) * 45)}%` }} />
                  <span className="reading whitespace-nowrap">
                    {r.settled_w.value.toFixed(1)}
                    {r.settled_w.expanded !== null && r.settled_w.expanded > 0 && <span className="soft text-xs"> ± {r.settled_w.expanded.toFixed(1)}</span>} W
                  </span>
                  {r.steady === false && <span className="soft text-xs">not yet steady</span>}
                  {r.steady === null && <span className="soft text-xs">one reading</span>}
                </span>
              )}
            </td>
            <td className="reading py-1.5 text-right whitespace-nowrap">{rampText(r)}</td>
            <td className="reading py-1.5 text-right whitespace-nowrap">{r.volts === null ? '' : `${r.volts.toFixed(1)} V`}</td>
            <td className="reading py-1.5 text-right whitespace-nowrap">{r.start_percent === null ? '' : `${r.start_percent.toFixed(0)} %`}</td>
            <td className="reading py-1.5 text-right whitespace-nowrap">{r.hottest_c === null ? '' : `${degreesText(r.hottest_c, degrees)} °${degrees}`}</td>
            <td className="py-1.5 pl-5 whitespace-nowrap">{r.seems}</td>
          </tr>
        ))}
      </tbody>
    </Wide>
  )
}

/** The ramp: between two readings where only those are known. */
function rampText({ ramp_s: ramp, ramp_from_s: from }: Row): string {
  if (ramp === null) return ''
  return from === null || from === undefined ? `${ramp.toFixed(0)} s` : from > 0 ? `${from.toFixed(0)}–${ramp.toFixed(0)} s` : `under ${ramp.toFixed(0)} s`
}
