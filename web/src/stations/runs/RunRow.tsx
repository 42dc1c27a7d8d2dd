import { Link } from 'react-router'
import type { Shape } from '../../api/client'
import { Ribbon } from '../../ribbon/Ribbon'
import { degreesText, duration } from '../../ui/format'
import { clockAt, dateAt, shortDate } from '../../ui/times'
import { useSettings } from '../../reader/settings'
import { useWidth } from '../../ui/useWidth'
import { Simulated } from '../../shared/Simulated'
import { aroundOf, chainOf } from '../../shared/words'
import { Strong } from '../../ui/text'

export type RowHeight = 'full' | 'medium' | 'slim'
export const HEIGHTS: Record<RowHeight, number> = { full: 70, medium: 44, slim: 28 }
const CARD_RIBBON = 46
export const COLUMNS = 'grid-cols-[66px_196px_minmax(0,1fr)_78px_76px_170px] gap-x-3'
/** Share of its column that the ribbon's scale takes, in percent: the rest is room for the last label. */
export const RIBBON_MOST = 97

/** Minutes of an uncertainty: tenths where they tell something. */
const within = (minutes: number) => (minutes < 3 ? Math.max(0.1, minutes).toFixed(1) : minutes.toFixed(0))

/** When the run was made; of one without a clock, when it was read. */
function When({ run, height }: { run: Shape['RunRow']; height: RowHeight }) {
  const at = run.started_at ?? run.created_at
  const title = `${run.started_at ? 'began' : 'read'} ${dateAt(at, run.zone)}, ${clockAt(at, run.zone)} (${run.zone})`
  const [day, year] = shortDate(at, run.zone)
  return (
    <time dateTime={at} title={title} className={`text-xs leading-tight ${run.started_at ? '' : 'soft'}`}>
      <span className="whitespace-nowrap">{day}</span>
      {height !== 'slim' && <span className="soft block">{year}</span>}
    </time>
  )
}

interface Props {
  run: Shape['RunRow']
  index: number
  height: RowHeight
  minutes: number
  fullWatts: number
  picked: boolean
}

const ribbonSays = (run: Shape['RunRow']) =>
  `${run.simulated ? 'simulated, ' : ''}${run.label}: ${run.summary.ribbon.ticks.map((t) => `${String(t.percent)} % at ${duration(t.minute)}`).join(', ') || 'no check-ins'}`

function Outcome({ run }: { run: Shape['RunRow'] }) {
  if (!run.outcome || run.outcome === 'complete') return null
  return <span className={`mr-1 border px-1 text-xs ${run.outcome === 'void' ? 'border-error text-error' : 'border-base-content'}`}>{run.outcome}</span>
}

/** A run on a narrow screen: name and chain, the ribbon across the whole width, the readings that matter, one sentence. */
export function RunCard({ run, index, minutes, fullWatts, picked }: Omit<Props, 'height'>) {
  const { degrees } = useSettings()
  const [cell, width] = useWidth()
  const { summary } = run
  const eighty = summary.to_80
  return (
    <Link
      to={`/runs/${run.id}`}
      data-row={index}
      className={`border-base-300 flex min-w-0 grow flex-col gap-0.5 border-b pt-2 pb-3 -outline-offset-2 ${picked ? 'bg-base-200' : ''}`}
    >
      <div className="flex min-w-0 items-baseline gap-2 pr-11 leading-tight">
        <b className="font-semibold break-words">{run.factors.phone || run.label}</b>
        {run.simulated && <Simulated />}
        <span className="soft ml-auto text-xs whitespace-nowrap">{shortDate(run.started_at ?? run.created_at, run.zone).join(' ')}</span>
      </div>
      <div className="soft pr-11 text-xs leading-tight">{[chainOf(run.factors), aroundOf(run.factors)].filter(Boolean).join(' · ')}</div>
      <div ref={cell} className="min-w-0">
        {width > 0 && (
          <Ribbon
            data={summary.ribbon}
            width={width}
            height={CARD_RIBBON}
            minutes={(minutes * 100) / RIBBON_MOST}
            fullWatts={fullWatts}
            labels={false}
            dashed={run.simulated}
            label={ribbonSays(run)}
          />
        )}
      </div>
      <div className="flex min-w-0 flex-wrap items-baseline gap-x-3 text-sm leading-tight">
        <span className="whitespace-nowrap">{eighty ? <><span className="soft">80 % in </span><span className="reading">{duration(eighty.estimate)}</span></> : <span className="soft">80 % not reached</span>}</span>
        {summary.hottest_c !== null && (
          <span className="reading whitespace-nowrap">
            {degreesText(summary.hottest_c, degrees)} °{degrees}
          </span>
        )}
        <span className="min-w-0">
          <Outcome run={run} />
          <Strong text={summary.headline} />
        </span>
      </div>
    </Link>
  )
}

/** A run as a row: phone and chain, ribbon, minutes to 80 %, hottest, and what it reads as. */
export function RunRow({ run, index, height, minutes, fullWatts, picked }: Props) {
  const { degrees } = useSettings()
  const [cell, width] = useWidth()
  const s = run.summary
  const eighty = s.to_80
  const chain = chainOf(run.factors)
  const around = aroundOf(run.factors)
  return (
    <Link
      to={`/runs/${run.id}`}
      data-row={index}
      className={`border-base-300 hover:bg-base-200 focus-visible:bg-base-200 grid h-full min-w-0 grow items-center border-b -outline-offset-2 ${picked ? 'bg-base-200' : ''} ${COLUMNS}`}
    >
      <When run={run} height={height} />
      <div className="min-w-0 leading-tight">
        <div className="truncate" title={run.label}>
          {run.simulated && <Simulated />}
          <b className="font-semibold">{run.factors.phone || run.label}</b>
          {height === 'slim' && chain && <span className="soft text-sm"> {chain}</span>}
        </div>
        {height !== 'slim' && (
          <div className="truncate text-xs" title={chain}>
            {chain}
          </div>
        )}
        {height === 'full' && (
          <div className="soft truncate text-xs" title={around}>
            {around}
            {run.origin === 'demo' && `${around ? ' · ' : ''}invented`}
          </div>
        )}
      </div>
      <div ref={cell} className="min-w-0">
        {width > 0 && (
          <Ribbon
            data={s.ribbon}
            width={width}
            height={HEIGHTS[height] - (height === 'full' ? 8 : 4)}
            minutes={(minutes * 100) / RIBBON_MOST}
            fullWatts={fullWatts}
            labels={height === 'full'}
            dashed={run.simulated}
            label={ribbonSays(run)}
          />
        )}
      </div>
      <div className="text-right leading-tight">
        {eighty ? (
          <>
            <span className="reading">{duration(eighty.estimate)}</span>
            {height !== 'slim' && (
              <div className="soft text-xs">± {within((eighty.latest - eighty.earliest) / 2)} min</div>
            )}
          </>
        ) : (
          <span className="soft text-xs">not reached</span>
        )}
      </div>
      <div className="text-right">
        {s.hottest_c === null ? (
          <span className="soft text-xs">no probe</span>
        ) : (
          <span className="reading whitespace-nowrap">
            {degreesText(s.hottest_c, degrees)} °{degrees}
          </span>
        )}
      </div>
      <div className={`text-sm leading-tight ${height === 'full' ? '' : 'truncate'}`}>
        <Outcome run={run} />
        <Strong text={s.headline} />
      </div>
    </Link>
  )
}
