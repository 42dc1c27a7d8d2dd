import type { Lane } from '../../api/bench'
import { laneNow } from '../../api/bench'
import { timeStep } from '../../charts/TimeAxis'
import { clockAt, dayAt } from '../../ui/times'

/** The one clock of the bench: minutes before and after now, over so many pixels. */
export interface Axis {
  width: number
  past: number
  ahead: number
}

const LEAST_PAST = 12
const LEAST_AHEAD = 40
const MARGIN = 1.06

export const nowX = (axis: Axis) => (axis.width * axis.past) / (axis.past + axis.ahead)

/** The pixel of a moment, minutes from now. */
export const xAt = (minutes: number, axis: Axis) => nowX(axis) + (minutes * axis.width) / (axis.past + axis.ahead)

/** Minutes from now of a moment on a lane's clock. */
export const fromNow = (seconds: number, lane: Lane) => (seconds - laneNow(lane)) / 60

/** An axis that holds every lane that runs, or where none does those that are being set: what each has behind it, and
 * what it still has to go. */
export function axisOf(lanes: Lane[], width: number): Axis {
  let past = LEAST_PAST
  let ahead = LEAST_AHEAD
  const running = lanes.filter((l) => l.view.placed_s !== null)
  for (const lane of running.length > 0 ? running : lanes) {
    const { placed_s, finish, ghost } = { ...lane.view, ghost: lane.ghost }
    const now = laneNow(lane)
    if (placed_s !== null) past = Math.max(past, (now - placed_s) / 60)
    const end = finish?.likely_s
    if (end !== null && end !== undefined) ahead = Math.max(ahead, (end - now) / 60 + 10)
    else if (placed_s === null && ghost) ahead = Math.max(ahead, ghost.watts.length * ghost.step_min)
  }
  return { width, past: past * MARGIN, ahead: ahead * MARGIN }
}

/** Moments of the hour to label by the clock of a zone: minutes from now, and how they read; with the day where it is
 * another than that of the label before, or than today. */
export function hours(axis: Axis, now: Date, zone: string): { minutes: number; text: string; day: string }[] {
  const step = timeStep(axis.past + axis.ahead, 8)
  const [hour = 0, minute = 0] = clockAt(now.toISOString(), zone).split(':').map(Number)
  const sinceMidnight = hour * 60 + minute + now.getSeconds() / 60
  const first = Math.ceil((sinceMidnight - axis.past) / step) * step
  const marks = []
  let before = dayAt(now.toISOString(), zone)
  for (let at = first; at < sinceMidnight + axis.ahead; at += step) {
    const moment = new Date(now.getTime() + (at - sinceMidnight) * 60_000).toISOString()
    const day = dayAt(moment, zone)
    marks.push({ minutes: at - sinceMidnight, text: clockAt(moment, zone), day: day === before ? '' : day })
    before = day
  }
  return marks
}

/** The zone that the clock of the bench shows: that of its lanes, else of this browser. */
export const zoneOf = (lanes: Lane[]) => lanes[0]?.view.zone ?? (Intl.DateTimeFormat().resolvedOptions().timeZone || 'UTC')

/** Moments of check-ins that are still to come, s on the lane's clock, up to its likely end. */
export function toCome(lane: Lane, until: number): number[] {
  const { placed_s, interval_min, due, finish } = lane.view
  if (placed_s === null || interval_min <= 0 || due.at_s === null) return []
  const end = Math.min(until, finish?.likely_s ?? until)
  const moments = []
  for (let at = due.at_s; at <= end + 1 && moments.length < 200; at += interval_min * 60) moments.push(at)
  return moments
}
