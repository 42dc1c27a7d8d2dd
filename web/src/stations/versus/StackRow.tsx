import { memo } from 'react'
import { Link } from 'react-router'
import type { Row, Versus } from '../../api/useVersus'
import { heatColour } from '../../ribbon/heat'
import { Ribbon } from '../../ribbon/Ribbon'
import { useSettings } from '../../reader/settings'
import { Place } from '../../shared/Place'
import { Simulated } from '../../shared/Simulated'
import { degreesText, duration } from '../../ui/format'
import { whenAt } from '../../ui/times'
import type { Cursor } from './cursor'
import { ReadOut } from './StackCursor'
import { begun } from '../../ui/text'

/** Columns of the stack: name, ribbon, place, time, hottest. */
export const GRID = 'grid grid-cols-[minmax(150px,244px)_minmax(0,1fr)_58px_88px_74px] gap-x-3 max-sm:grid-cols-[minmax(0,1fr)_auto_auto_auto]'

type Run = Row['runs'][number]
const noCursor = () => undefined

interface RowProps {
  versus: Versus
  n: number
  height: number
  drawn: number
  lead: number
  minutes: number
  watts: number
  cursor: Cursor
  chosen: boolean
  open: boolean
  onChoose: (n: number | null) => void
  onRemove: (n: number) => void
  onOpen: (n: number) => void
}

/** One row of the stack: its name, ribbon and figures; its runs below where it is open. */
export const StackRow = memo(function StackRow(props: RowProps) {
  const { versus, n, height, drawn, lead, minutes, watts, chosen, open } = props
  const { degrees } = useSettings()
  const row = versus.rows[n]
  if (!row) return null
  const run = row.runs[row.typical]
  const tall = height >= 50
  const ribbon = (r: Run, size: number) =>
    r.ribbon && (
      <Ribbon
        data={r.ribbon}
        width={drawn}
        height={size}
        origin={r.offset - lead}
        minutes={minutes}
        fullWatts={watts}
        labels={size >= 46}
        dashed={r.simulated}
        cursor={null}
        onCursor={noCursor}
        label={`${row.label}: ${r.ribbon.ticks.map((t) => `${String(t.percent)} % at ${duration(t.minute)}`).join(', ') || 'no check-ins'}`}
      />
    )
  return (
    <div className={`border-base-300 group border-b ${chosen ? 'bg-base-200' : ''}`} data-row={n}>
      <div className={`${GRID} items-center`} style={{ minHeight: height }}>
        <div className="min-w-0 leading-tight">
          <div className="flex items-baseline gap-2">
            <button
              className="min-w-0 cursor-pointer truncate text-left max-sm:min-h-11 max-sm:whitespace-normal"
              title={row.around ? `${row.label}: ${row.around}` : row.label}
              aria-pressed={chosen}
              onClick={() => {
                props.onChoose(chosen ? null : n)
              }}
            >
              {run?.simulated && <Simulated />}
              <b className="font-semibold">{begun(row.label)}</b>
            </button>
            {!tall && <Small row={row} n={n} open={open} onOpen={props.onOpen} onRemove={props.onRemove} />}
          </div>
          {tall && (
            <div className="flex items-baseline gap-2 truncate text-xs" title={row.around}>
              <Small row={row} n={n} open={open} onOpen={props.onOpen} onRemove={props.onRemove} price />
            </div>
          )}
        </div>
        <div className="relative min-w-0 self-stretch content-center max-sm:col-span-full max-sm:row-start-2">
          {run ? ribbon(run, height - 4) : null}
          <ReadOut row={row} run={run} cursor={props.cursor} drawn={drawn} lead={lead} minutes={minutes} />
        </div>
        <div className="reading text-center font-semibold">
          <span className="soft font-sans text-xs font-normal sm:hidden">place </span>
          <Place text={row.place} />
        </div>
        <div className="text-right leading-tight">
          {row.minutes ? (
            <>
              <span className="reading whitespace-nowrap" title={row.between.length ? `the mean; repeats ${row.between.map((m) => m.toFixed(0)).join(' to ')} min` : undefined}>
                {duration(row.minutes.estimate)}
              </span>
              {tall && row.noise_min !== null && (
                <div className="soft text-xs" title="a repeat would land within this 19 times in 20">
                  ± {row.noise_min.toFixed(0)} min
                </div>
              )}
            </>
          ) : (
            <span className="soft text-xs">no time</span>
          )}
        </div>
        <div className="text-right leading-tight">
          {row.hottest_c === null ? (
            <span className="soft text-xs">{row.minutes ? 'no probe' : ''}</span>
          ) : (
            <>
              <span className="reading border-b-4 whitespace-nowrap" style={{ borderColor: heatColour(row.hottest_c) }}>
                {degreesText(row.hottest_c, degrees)} °{degrees}
              </span>
              {tall && row.lost_min && row.lost_min.value >= 0.5 && (
                <div className="soft mt-0.5 text-xs whitespace-nowrap">cost {row.lost_min.value.toFixed(0)} min</div>
              )}
            </>
          )}
        </div>
      </div>
      {row.unfit && <p className="-mt-0.5 pb-1 text-xs">{begun(row.unfit)}.</p>}
      {open &&
        row.runs.map((r) => (
          <div key={r.id} className={`${GRID} items-center`}>
            <Link className="truncate pl-3 text-xs underline underline-offset-2" to={`/runs/${r.id}`}>
              {r.started_at ? whenAt(r.started_at, r.zone) : r.label}
            </Link>
            <div className="max-sm:col-span-full max-sm:row-start-2">{ribbon(r, 26)}</div>
            <span />
            <span className="reading text-right text-sm">{r.minutes === null ? '' : duration(r.minutes)}</span>
          </div>
        ))}
    </div>
  )
})

interface SmallProps {
  row: Row
  n: number
  open: boolean
  price?: boolean
  onOpen: (n: number) => void
  onRemove: (n: number) => void
}

/** How many runs a row holds, opened by a click, its price, and the way out. */
function Small({ row, n, open, price = false, onOpen, onRemove }: SmallProps) {
  // In slim rows the name needs the room.
  const counted = price || row.runs.length > 1
  return (
    <>
      <button
        className={`soft shrink-0 cursor-pointer text-xs underline decoration-dotted underline-offset-2 ${counted ? '' : 'sm:pointer-fine:hidden sm:pointer-fine:group-hover:inline'}`}
        aria-expanded={open}
        aria-label={`${String(row.runs.length)} ${row.runs.length === 1 ? 'run' : 'runs'} of ${row.label}`}
        onClick={() => {
          onOpen(n)
        }}
      >
        {row.runs.length} {row.runs.length === 1 ? 'run' : 'runs'}
      </button>
      {price && row.price !== null && <span className="soft shrink-0">{`${row.price.toFixed(0)} ${row.currency}`}</span>}
      <button
        className="soft hover:text-base-content reach shrink-0 cursor-pointer text-xs max-sm:px-3 sm:pointer-fine:group-hover:not-sr-only sm:pointer-fine:not-focus-visible:sr-only"
        aria-label={`take ${row.label} out`}
        title="take out"
        onClick={() => {
          onRemove(n)
        }}
      >
        ×
      </button>
    </>
  )
}
