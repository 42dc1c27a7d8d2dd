import { clock } from '../ui/format'

const DAY_MIN = 1440
const STEPS_MIN = [10, 15, 30, 60, 120, 240, 480, 720, DAY_MIN]

/** Minutes between two labels of a time axis, so that a span bears no more than `most`. */
export const timeStep = (span: number, most: number) => STEPS_MIN.find((s) => span / s <= most) ?? Math.ceil(span / most / DAY_MIN) * DAY_MIN

/** Minutes to label from one minute to another, 0 among them where it lies between. */
export function timeMarks(from: number, to: number, most: number): number[] {
  const step = timeStep(to - from, most)
  const first = Math.ceil(from / step)
  return Array.from({ length: Math.max(0, Math.floor(to / step) - first + 1) }, (_, i) => (i + first) * step)
}

interface Props {
  from?: number
  to: number
  /** How many labels there is room for. */
  most: number
  /** The pixel of a minute. */
  x: (minute: number) => number
}

/** Labels of a time axis under a chart that is drawn as one SVG. */
export function TimeAxis({ from = 0, to, most, x, y }: Props & { y: number }) {
  return timeMarks(from, to, most).map((m) => (
    <text key={m} x={x(m)} y={y} textAnchor="middle" className="fill-secondary text-[11px]">
      {clock(m)}
    </text>
  ))
}

const EDGE_PX = 12

/** Labels of a time axis above rows of a page; one at the left edge begins there. */
export function TimeRuler({ from = 0, to, most, x }: Props) {
  return timeMarks(from, to, most).map((m) => (
    <span key={m} aria-hidden className={`absolute whitespace-nowrap ${x(m) < EDGE_PX ? '' : '-translate-x-1/2'}`} style={{ left: x(m) }}>
      {clock(m)}
    </span>
  ))
}
