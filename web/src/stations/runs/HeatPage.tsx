import { useMemo, useRef, useState } from 'react'
import { Link, useNavigate } from 'react-router'
import type { Shape } from '../../api/client'
import { useThrottling } from '../../api/useThrottling'
import { heatColour } from '../../ribbon/heat'
import { degreesText, duration } from '../../ui/format'
import { FilterField } from '../../ui/FilterField'
import { MeasuredOnly } from '../../ui/MeasuredOnly'
import { ProblemLine } from '../../ui/Problem'
import { useSettings } from '../../reader/settings'
import { dateAt } from '../../ui/times'
import { useKeys } from '../../ui/useKeys'
import { SortHead, useOrder } from '../../ui/useSorted'
import { Simulated } from '../../shared/Simulated'
import { RunsTabs } from './RunsTabs'
import { Wide } from '../../ui/Wide'

type Row = Shape['ThrottleRow']

type Order = 'when' | 'name' | 'conditions' | 'hottest' | 'rise' | 'first' | 'throttled' | 'lost'

/** Columns whose first click puts the most on top. */
const MOST_FIRST: ReadonlySet<Order> = new Set<Order>(['when', 'hottest', 'rise', 'throttled', 'lost'])

/** What is said where no throttle was found. */
const FIRST: Record<Shape['ThrottleSummary']['verdict'], string> = {
  never: 'never',
  perhaps: 'a drop without a known cause',
  unknown: 'unknown without power',
  throttled: '',
  probably: '',
}

/** Heat over all runs: which phone throttles on which charger, how soon, and what it costs. */
export function HeatPage() {
  const navigate = useNavigate()
  const [filter, setFilter] = useState('')
  const [likeOnly, setLikeOnly] = useState(false)
  const [measuredOnly, setMeasuredOnly] = useState(true)
  const field = useRef<HTMLInputElement>(null)
  useKeys(
    useMemo(
      () => ({
        h: () => void navigate('/runs'),
        f: () => field.current?.focus(),
      }),
      [navigate],
    ),
  )
  const sorted = useOrder<Order>('lost', (key) => MOST_FIRST.has(key))
  const { rows: shown, scale, usual, isPending, error, more } = useThrottling({
    words: filter, like: likeOnly, kind: measuredOnly ? 'measured' : 'all', sort: sorted.order, down: sorted.down, limit: 100,
  })
  return (
    <div className="flex h-full flex-col px-6 pt-4 max-sm:px-3">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1 pb-3">
        <RunsTabs shown="/runs/heat" />
        {scale?.any && (
          <>
            <FilterField field={field} value={filter} onChange={setFilter} label="filter the table" placeholder="filter: phone, charger, room …" />
            <label className="flex items-center gap-2 text-sm">
              <input
                type="checkbox"
                className="checkbox checkbox-sm"
                checked={likeOnly}
                onChange={(e) => {
                  setLikeOnly(e.target.checked)
                }}
              />
              same conditions only
            </label>
            <MeasuredOnly only={measuredOnly} onOnly={setMeasuredOnly} />
            <p className="soft min-w-0 truncate text-xs" title={usual}>
              most runs: {usual || 'nothing stated'}
            </p>
          </>
        )}
      </div>
      {error && <ProblemLine error={error} />}
      {isPending && <p className="soft py-8">Reading the runs …</p>}
      {scale && !scale.any && (
        <p className="py-8">No run yet. Read one with temperatures of the phone's back: it then stands here, with how hot it got and what that cost.</p>
      )}
      {scale?.any && (
        <div
          className="min-h-0 flex-1 overflow-auto"
          onScroll={({ currentTarget: list }) => {
            if (list.scrollTop + 3 * list.clientHeight > list.scrollHeight) more()
          }}
        >
          <Wide least={48} className="w-full text-sm [&_tr>*+*]:pl-3">
            <thead className="soft bg-base-100 border-base-300 sticky top-0 border-b text-left text-xs">
              <tr>
                <SortHead sorted={sorted} by="name" className="text-left">
                  phone × charger
                </SortHead>
                <SortHead sorted={sorted} by="when" className="text-left">
                  when
                </SortHead>
                <SortHead sorted={sorted} by="conditions" className="text-left">
                  conditions
                </SortHead>
                <SortHead sorted={sorted} by="hottest">
                  hottest
                </SortHead>
                <SortHead sorted={sorted} by="rise">
                  over the room
                </SortHead>
                <SortHead sorted={sorted} by="first">
                  first throttle
                </SortHead>
                <SortHead sorted={sorted} by="throttled">
                  throttled
                </SortHead>
                <SortHead sorted={sorted} by="lost">
                  minutes lost
                </SortHead>
              </tr>
            </thead>
            <tbody>
              {shown.map((r) => (
                <HeatRow key={r.id} row={r} />
              ))}
            </tbody>
          </Wide>
          {shown.length === 0 && <p className="soft py-8">No run matches. Press Esc in the filter, or show runs under other conditions too.</p>}
          <p className="soft py-3 text-xs">
            Throttled and lost minutes count below 80 %. Minutes lost are ± at k = 2. Without temperatures, a drop is never blamed on heat.
          </p>
        </div>
      )}
    </div>
  )
}

function HeatRow({ row }: { row: Row }) {
  const { degrees } = useSettings()
  const t = row.throttle
  const kelvin = (k: number) => (degrees === 'F' ? `${(k * 1.8).toFixed(1)} °F` : `${k.toFixed(1)} K`)
  return (
    <tr className="border-base-300 hover:bg-base-200 border-b align-top">
      <th scope="row" className="py-1.5 pr-4 text-left font-normal">
        <Link to={`/runs/${row.id}`} className="underline decoration-dotted underline-offset-3" title={row.label}>
          <b className="font-semibold">{row.phone || row.label}</b>
          {row.charger && ` × ${row.charger}`}
        </Link>
        {row.simulated && (
          <>
            {' '}
            <Simulated />
          </>
        )}
      </th>
      <td className="soft py-1.5 pr-3 text-xs leading-5 whitespace-nowrap">{dateAt(row.at, row.zone)}</td>
      <td className="soft max-w-80 py-1.5 pr-4 text-xs leading-5">
        {row.conditions || 'nothing stated'}
        {row.unlike.length > 0 && (
          <span className="text-base-content border-base-content ml-1 inline-block border px-1 leading-4" title={row.unlike.join('\n')}>
            differs: {row.unlike.map((u) => u.split(':')[0]).join(', ')}
          </span>
        )}
      </td>
      {t === null ? (
        <td colSpan={5} className="soft py-1.5 text-right text-xs leading-5">
          no temperature logged
        </td>
      ) : (
        <>
          <td className="reading py-1.5 text-right whitespace-nowrap">
            <span className="border-b-4" style={{ borderColor: heatColour(t.hottest_c) }}>
              {degreesText(t.hottest_c, degrees)} °{degrees}
            </span>
          </td>
          <td className="reading py-1.5 text-right whitespace-nowrap">{t.rise_k === null ? <span className="soft">not known</span> : kelvin(t.rise_k)}</td>
          <td className="py-1.5 text-right whitespace-nowrap">
            {t.first_min === null ? (
              <span className="soft">{FIRST[t.verdict]}</span>
            ) : (
              <>
                <span className="reading">{duration(t.first_min)}</span>
                <span className="soft block text-xs">
                  {[
                    ...(t.first_percent === null ? [] : [`${t.first_percent.toFixed(0)} %`]),
                    ...(t.first_c === null ? [] : [`${t.first_estimated ? 'about ' : ''}${degreesText(t.first_c, degrees)} °${degrees}`]),
                    ...(t.verdict === 'probably' ? ['probably heat'] : []),
                  ].join(', ')}
                </span>
              </>
            )}
          </td>
          <td className="py-1.5 text-right whitespace-nowrap">
            {t.minutes !== null && <span className={`reading ${t.cycles ? '' : 'soft'}`}>{t.minutes.toFixed(0)} min</span>}
            {t.cycles !== null && t.cycles > 0 && (
              <span className="soft block text-xs">
                in {t.cycles} {t.cycles === 1 ? 'dip' : 'dips'}
              </span>
            )}
          </td>
          <td className="py-1.5 text-right whitespace-nowrap">
            {t.cost_min && <span className={`reading ${t.cost_min.value >= 0.5 ? 'font-bold' : 'soft'}`}>{t.cost_min.value.toFixed(0)} min</span>}
            {t.cost_min && t.cost_min.value > 0 && <span className="soft block text-xs">{t.cost_min.expanded !== null && `± ${t.cost_min.expanded.toFixed(0)} min`}{!t.to_80 && ', whole run'}</span>}
          </td>
        </>
      )}
    </tr>
  )
}
