import { memo, useCallback, useMemo, useState, type KeyboardEvent, type MouseEvent } from 'react'
import { Link } from 'react-router'
import type { Row, Versus } from '../../api/useVersus'
import { levelAt } from '../../charts/level'
import { readAt } from '../../ribbon/geometry'
import { heatColour } from '../../ribbon/heat'
import { Ribbon } from '../../ribbon/Ribbon'
import { clock, degreesText, duration } from '../../ui/format'
import { useSettings, type Degrees } from '../../reader/settings'
import { whenAt } from '../../ui/times'
import { useWidth } from '../../ui/useWidth'
import { Simulated } from '../../shared/Simulated'
import { upper } from './compared'
import { makeCursor, useCursor, type Cursor } from './cursor'

/** Share of its column that the scale takes, in percent: the rest is room for the last label. */
const MOST = 96
const HEIGHTS: [number, number][] = [
  [4, 66],
  [7, 50],
  [12, 36],
]
const SLIM_PX = 28
const STEP_MIN = 5
const GRID = 'grid grid-cols-[minmax(150px,244px)_minmax(0,1fr)_58px_88px_74px] gap-x-3'

type Run = Row['runs'][number]
const noCursor = () => undefined

const scaleStep = (minutes: number) => [15, 30, 60, 120, 240].find((s) => minutes / s <= 10) ?? 480

interface Props {
  versus: Versus
  chosen: number | null
  onChoose: (n: number | null) => void
  onRemove: (n: number) => void
}

/** The ribbons of a comparison stacked on one scale, with one cursor through all of them. */
export function Stack({ versus, chosen, onChoose, onRemove }: Props) {
  const [column, width] = useWidth()
  const [cursor] = useState(makeCursor)
  const [open, setOpen] = useState<number | null>(null)
  const rows = versus.rows
  const frame = useMemo(() => {
    const runs = rows.flatMap((r) => r.runs)
    const lead = Math.max(0, ...runs.map((r) => r.offset))
    const tail = Math.max(30, ...runs.map((r) => (r.ribbon?.minutes ?? 0) - r.offset))
    const watts = Math.max(10, ...runs.flatMap((r) => r.ribbon?.watts.map((w) => w ?? 0) ?? []))
    return { lead, minutes: lead + tail, watts }
  }, [rows])
  const height = HEIGHTS.find(([most]) => rows.length <= most)?.[1] ?? SLIM_PX
  const drawn = (width * MOST) / 100
  const xOf = (minute: number) => ((minute + frame.lead) / frame.minutes) * drawn
  const order = useMemo(() => sooner(rows), [rows])
  const point = (event: MouseEvent) => {
    const box = column.current?.getBoundingClientRect()
    if (!box) return
    const minute = ((event.clientX - box.left) / drawn) * frame.minutes - frame.lead
    cursor.set(minute >= -frame.lead && minute <= frame.minutes - frame.lead ? minute : null)
  }
  const walk = (event: KeyboardEvent) => {
    const by = { ArrowRight: STEP_MIN, ArrowLeft: -STEP_MIN }[event.key]
    if (by === undefined) {
      if (event.key === 'Escape') cursor.set(null)
      return
    }
    event.preventDefault()
    cursor.set(Math.min(frame.minutes - frame.lead, Math.max(-frame.lead, (cursor.get() ?? 0) + by)))
  }
  const toggle = useCallback((n: number) => {
    setOpen((was) => (was === n ? null : n))
  }, [])
  return (
    <section aria-label="ribbons" className="mt-2">
      <div className={`${GRID} soft items-end text-xs`}>
        <span>{versus.align === 'placement' ? 'from the start' : `from ${String(versus.window.start)} %`}</span>
        <div ref={column} className="relative h-4">
          {width > 0 && <Marks minutes={frame.minutes - frame.lead} lead={frame.lead} xOf={xOf} />}
          {width > 0 && <Moment cursor={cursor} xOf={xOf} />}
        </div>
        <span className="cursor-help text-center" title="the places it may hold: after those shown to be faster, before those shown to be slower; with Holm's correction for all pairs">
          place
        </span>
        <span className="text-right">{`${String(versus.window.start)} to ${String(versus.window.end)} %`}</span>
        <span className="cursor-help text-right" title="of the window, as are the minutes that heat cost; those count up to 80 %">
          hottest
        </span>
      </div>
      <div
        className="border-base-300 relative border-t focus-visible:outline-offset-4"
        role="group"
        tabIndex={0}
        aria-label="ribbons on one scale; left and right move the cursor"
        onMouseMove={point}
        onMouseLeave={() => {
          cursor.set(null)
        }}
        onKeyDown={walk}
      >
        {width > 0 &&
          order.map((n) => {
            const row = rows[n]
            return row ? (
              <StackRow
                key={row.runs.map((r) => r.id).join()}
                versus={versus}
                n={n}
                height={height}
                drawn={drawn}
                lead={frame.lead}
                minutes={frame.minutes}
                watts={frame.watts}
                cursor={cursor}
                chosen={chosen === n}
                open={open === n}
                onChoose={onChoose}
                onRemove={onRemove}
                onOpen={toggle}
              />
            ) : null
          })}
      </div>
    </section>
  )
}

/** Rows in the order of their times; those without one last. */
export function sooner(rows: Row[]): number[] {
  return rows.map((_, n) => n).sort((a, b) => (rows[a]?.minutes?.estimate ?? Infinity) - (rows[b]?.minutes?.estimate ?? Infinity))
}

function Marks({ minutes, lead, xOf }: { minutes: number; lead: number; xOf: (minute: number) => number }) {
  const step = scaleStep(minutes + lead)
  const first = -Math.floor(lead / step)
  const marks = Array.from({ length: Math.floor(minutes / step) - first + 1 }, (_, i) => (i + first) * step)
  return marks.map((m) => (
    <span key={m} aria-hidden className={`absolute whitespace-nowrap ${xOf(m) < 12 ? '' : '-translate-x-1/2'}`} style={{ left: xOf(m) }}>
      {clock(m)}
    </span>
  ))
}

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

const StackRow = memo(function StackRow(props: RowProps) {
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
              className="min-w-0 cursor-pointer truncate text-left"
              title={row.around ? `${row.label}: ${row.around}` : row.label}
              aria-pressed={chosen}
              onClick={() => {
                props.onChoose(chosen ? null : n)
              }}
            >
              {run?.simulated && <Simulated />}
              <b className="font-semibold">{upper(row.label)}</b>
            </button>
            {!tall && <Small row={row} n={n} open={open} onOpen={props.onOpen} onRemove={props.onRemove} />}
          </div>
          {tall && (
            <div className="flex items-baseline gap-2 truncate text-xs" title={row.around}>
              <Small row={row} n={n} open={open} onOpen={props.onOpen} onRemove={props.onRemove} price />
            </div>
          )}
        </div>
        <div className="relative min-w-0 self-stretch content-center">
          {run ? ribbon(run, height - 4) : null}
          <ReadOut row={row} run={run} cursor={props.cursor} drawn={drawn} lead={lead} minutes={minutes} />
        </div>
        <div className="reading text-center font-semibold"><Place text={row.place} /></div>
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
      {row.unfit && <p className="-mt-0.5 pb-1 text-xs">{upper(row.unfit)}.</p>}
      {open &&
        row.runs.map((r) => (
          <div key={r.id} className={`${GRID} items-center`}>
            <Link className="truncate pl-3 text-xs underline underline-offset-2" to={`/runs/${r.id}`}>
              {r.started_at ? whenAt(r.started_at, r.zone) : r.label}
            </Link>
            <div>{ribbon(r, 26)}</div>
            <span />
            <span className="reading text-right text-sm">{r.minutes === null ? '' : duration(r.minutes)}</span>
          </div>
        ))}
    </div>
  )
})

/** A place; a range on two lines. */
function Place({ text }: { text: string }) {
  const [first, of] = text.split(' of ')
  if (of === undefined) return text
  return (
    <span className="block font-sans text-xs leading-tight font-normal" title={`${text}: too close to tell which`}>
      <span className="whitespace-nowrap">{first}</span>
      <span className="soft block">of {of}</span>
    </span>
  )
}

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
        className={`soft shrink-0 cursor-pointer text-xs underline decoration-dotted underline-offset-2 ${counted ? '' : 'hidden group-hover:inline'}`}
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
        className="soft hover:text-base-content shrink-0 cursor-pointer text-xs group-hover:not-sr-only not-focus-visible:sr-only"
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

/** The minute under the cursor, on the scale. */
function Moment({ cursor, xOf }: { cursor: Cursor; xOf: (minute: number) => number }) {
  const minute = useCursor(cursor)
  if (minute === null) return null
  return (
    <span className="bg-neutral text-neutral-content absolute -top-0.5 -translate-x-1/2 rounded-sm px-1 text-xs" style={{ left: xOf(minute) }}>
      {clock(minute)}
    </span>
  )
}

interface ReadOutProps {
  row: Row
  run: Run | undefined
  cursor: Cursor
  drawn: number
  lead: number
  minutes: number
}

/** The line of the cursor through a ribbon, and what it holds there. */
function ReadOut({ row, run, cursor, drawn, lead, minutes }: ReadOutProps) {
  const { degrees } = useSettings()
  const minute = useCursor(cursor)
  if (minute === null) return null
  const left = ((minute + lead) / minutes) * drawn
  const text = run ? held(row, run, minute, degrees) : ''
  return (
    <div className="pointer-events-none absolute inset-y-0" style={{ left }}>
      <div className="border-base-content absolute inset-y-0 border-l border-dashed" />
      {text && (
        <span
          className={`bg-neutral text-neutral-content absolute top-1/2 -translate-y-1/2 rounded-sm px-1.5 text-xs whitespace-nowrap ${left > drawn * 0.7 ? 'right-2' : 'left-2'}`}
        >
          {text}
        </span>
      )}
    </div>
  )
}

/** What a row holds at a minute, in a few figures. */
function held(row: Row, run: Run, minute: number, degrees: Degrees): string {
  const at = minute + run.offset
  if (!run.ribbon || at > run.ribbon.minutes || at < 0) return ''
  const { watts, celsius } = readAt(run.ribbon, at)
  const percent = levelAt(row.curve, minute)
  return [
    percent === null ? '' : `${percent.toFixed(0)} %`,
    watts === null ? 'not metered' : `${watts.toFixed(1)} W`,
    celsius === null ? '' : `${degreesText(celsius, degrees)} °${degrees}`,
  ]
    .filter(Boolean)
    .join(' · ')
}
