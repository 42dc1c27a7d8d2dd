import type { Row } from '../../api/useVersus'
import { levelAt } from '../../charts/level'
import { useSettings, type Degrees } from '../../reader/settings'
import { readAt } from '../../ribbon/geometry'
import { paceText } from '../../ribbon/Ribbon'
import { clock, degreesText } from '../../ui/format'
import { useCursor, type Cursor } from './cursor'

type Run = Row['runs'][number]

/** The minute under the cursor, on the scale. */
export function Moment({ cursor, xOf }: { cursor: Cursor; xOf: (minute: number) => number }) {
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
export function ReadOut({ row, run, cursor, drawn, lead, minutes }: ReadOutProps) {
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
    watts === null ? paceText(run.ribbon, at) : `${watts.toFixed(1)} W`,
    celsius === null ? '' : `${degreesText(celsius, degrees)} °${degrees}`,
  ]
    .filter(Boolean)
    .join(' · ')
}
