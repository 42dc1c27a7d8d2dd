import { useCallback, useMemo, useState, type KeyboardEvent, type MouseEvent } from 'react'
import type { Row, Versus } from '../../api/useVersus'
import { TimeRuler } from '../../charts/TimeAxis'
import { useWidth } from '../../ui/useWidth'
import { makeCursor } from './cursor'
import { Moment } from './StackCursor'
import { GRID, StackRow } from './StackRow'

/** Share of its column that the scale takes, in percent: the rest is room for the last label. */
const MOST = 96
const HEIGHTS: [number, number][] = [
  [4, 66],
  [7, 50],
  [12, 36],
]
const SLIM_PX = 28
const STEP_MIN = 5
const NARROW_PX = 420

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
        <div ref={column} className="relative h-4 max-sm:col-span-full max-sm:row-start-2">
          {width > 0 && <TimeRuler from={-frame.lead} to={frame.minutes - frame.lead} most={width < NARROW_PX ? 5 : 10} x={xOf} />}
          {width > 0 && <Moment cursor={cursor} xOf={xOf} />}
        </div>
        <span className="cursor-help text-center max-sm:hidden" title="the places it may hold: after those shown to be faster, before those shown to be slower; with Holm's correction for all pairs">
          place
        </span>
        <span className="text-right max-sm:hidden">{`${String(versus.window.start)} to ${String(versus.window.end)} %`}</span>
        <span className="cursor-help text-right max-sm:hidden" title="of the window, as are the minutes that heat cost; those count up to 80 %">
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
