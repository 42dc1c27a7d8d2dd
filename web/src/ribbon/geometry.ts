import { area, curveMonotoneX } from 'd3-shape'
import type { Shape } from '../api/client'
import { CAUSES, COLOUR_STOPS, FULL_PACE, LABEL_ROOM_PX, LEAST_HALF_PX, MILESTONES } from '../api/rules'
import { heatColour, UNMEASURED } from './heat'

export type RibbonData = Shape['RibbonDocument']

/** Where a ribbon lies: the minute at its left edge, those of its width, its middle line, and its greatest half height
 * at `fullWatts`. */
export interface Frame {
  left: number
  width: number
  origin: number
  minutes: number
  middle: number
  halfHeight: number
  fullWatts: number
}

export interface Tick {
  x: number
  percent: number
  label: boolean
  /** Half the height of the band at the tick, pixels. */
  half: number
}

const LABELLED: readonly number[] = MILESTONES

export const xOf = (minute: number, frame: Frame) => frame.left + ((minute - frame.origin) / frame.minutes) * frame.width

/** The last minute that the frame has room for. */
export const lastOf = (frame: Frame) => frame.origin + frame.minutes

/** The minute that stands at a pixel. */
export const minuteAt = (x: number, frame: Frame) => frame.origin + ((x - frame.left) / frame.width) * frame.minutes

/** Half the height of the band for so many watts, pixels. */
const halfOf = (watts: number, frame: Frame) =>
  Math.max(LEAST_HALF_PX, (watts / frame.fullWatts) * frame.halfHeight)

/** Whether no meter was: the height of the band is then the pace of the percentages. */
export const isPaced = (data: RibbonData) => data.pace.length > 0

/** Points a minute at a minute of a run without a meter. */
export const paceAt = (data: RibbonData, minute: number) =>
  data.pace.find((p) => p.start <= minute && minute <= p.end)?.points_per_min ?? null

const halfOfPace = (pace: number, frame: Frame) => Math.max(LEAST_HALF_PX, Math.min(1, Math.abs(pace) / FULL_PACE) * frame.halfHeight)

/** The outline of a run without a meter: a step for each straight piece of its percentages. */
function pacedOutline(data: RibbonData, frame: Frame): string {
  const last = lastOf(frame)
  const steps = data.pace.filter((p) => p.start < last).map((p) => ({ from: xOf(p.start, frame), to: xOf(Math.min(last, p.end), frame), half: halfOfPace(p.points_per_min, frame) }))
  if (!steps.length) return ''
  const upper = steps.flatMap((s) => [`${String(s.from)} ${String(frame.middle - s.half)}`, `${String(s.to)} ${String(frame.middle - s.half)}`])
  const lower = steps.toReversed().flatMap((s) => [`${String(s.to)} ${String(frame.middle + s.half)}`, `${String(s.from)} ${String(frame.middle + s.half)}`])
  return `M${[...upper, ...lower].join('L')}Z`
}

/** What is known of the cause of a mark; nothing of one that is no dip. */
const causeOf = (what: string) => (Object.hasOwn(CAUSES, what) ? CAUSES[what as keyof typeof CAUSES] : undefined)

/** The stretches of a ribbon that heat took power from, minutes. */
export const heatStretches = (data: RibbonData) =>
  data.marks.filter((m) => causeOf(m.what)?.byHeat).map((m): [number, number] => [m.start, m.end])

/** The outline of the band; a hole in the log and a lost contact leave a gap. */
export function outline(data: RibbonData, frame: Frame): string {
  if (isPaced(data)) return pacedOutline(data, frame)
  const breaks = data.marks.filter((m) => causeOf(m.what)?.offCoil)
  const broken = (i: number) =>
    breaks.some((m) => m.start < (i + 1) * data.step_min && m.end > i * data.step_min)
  const band = area<number | null>()
    .defined((watts, i) => watts !== null && !broken(i) && i * data.step_min <= lastOf(frame))
    .x((_, i) => xOf((i + 0.5) * data.step_min, frame))
    .y0((watts) => frame.middle + halfOf(watts ?? 0, frame))
    .y1((watts) => frame.middle - halfOf(watts ?? 0, frame))
    .curve(curveMonotoneX)
  return band(data.watts) ?? ''
}

/** Stops of the band's colour, by the phone's temperature; shares of the ribbon's own length. */
export function colourStops(data: RibbonData): { offset: number; colour: string }[] {
  const celsius = data.celsius
  if (!celsius) return [{ offset: 0, colour: UNMEASURED }]
  const every = Math.max(1, Math.floor(celsius.length / COLOUR_STOPS))
  return celsius.flatMap((c, i) =>
    i % every === 0 ? [{ offset: (i + 0.5) / celsius.length, colour: c === null ? UNMEASURED : heatColour(c) }] : [],
  )
}

/** Ticks at every ten percent; the labels of 50, 80 and 100 only where there is room for them. */
export function ticks(data: RibbonData, frame: Frame): Tick[] {
  let lastLabel = -Infinity
  return data.ticks
    .filter((t) => t.minute <= lastOf(frame))
    .map((t) => {
      const x = xOf(t.minute, frame)
      const label = LABELLED.includes(t.percent) && x - lastLabel >= LABEL_ROOM_PX
      if (label) lastLabel = x
      return { x, percent: t.percent, label, half: isPaced(data) ? halfOfPace(paceAt(data, t.minute) ?? 0, frame) : halfOf(readAt(data, t.minute).watts ?? 0, frame) }
    })
}

/** What the ribbon holds at a minute. */
export function readAt(data: RibbonData, minute: number): { watts: number | null; celsius: number | null } {
  const i = Math.min(data.watts.length - 1, Math.max(0, Math.floor(minute / data.step_min)))
  return { watts: data.watts[i] ?? null, celsius: data.celsius?.[i] ?? null }
}
