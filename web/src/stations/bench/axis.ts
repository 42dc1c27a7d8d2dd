import type { Lane } from '../../api/bench'
import { laneNow } from '../../api/bench'

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

/** An axis that holds every lane: what it has behind it, and what it still has to go. */
export function axisOf(lanes: Lane[], width: number): Axis {
  let past = LEAST_PAST
  let ahead = LEAST_AHEAD
  for (const lane of lanes) {
    const { placed_s, finish, ghost } = { ...lane.view, ghost: lane.ghost }
    const now = laneNow(lane)
    if (placed_s !== null) past = Math.max(past, (now - placed_s) / 60)
    const end = finish?.likely_s
    if (end !== null && end !== undefined) ahead = Math.max(ahead, (end - now) / 60 + 10)
    else if (placed_s === null && ghost) ahead = Math.max(ahead, ghost.watts.length * ghost.step_min)
  }
  return { width, past: past * MARGIN, ahead: ahead * MARGIN }
}

/** Moments of the hour to label: minutes from now, and how they read. */
export function hours(axis: Axis, now: Date): { minutes: number; text: string }[] {
  const span = axis.past + axis.ahead
  const step = [10, 15, 30, 60, 120, 240].find((s) => span / s <= 8) ?? 240
  const sinceMidnight = now.getHours() * 60 + now.getMinutes() + now.getSeconds() / 60
  const first = Math.ceil((sinceMidnight - axis.past) / step) * step
  const found = []
  for (let at = first; at < sinceMidnight + axis.ahead; at += step) {
    const minute = ((at % 1440) + 1440) % 1440
    const text = `${String(Math.floor(minute / 60)).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`
    found.push({ minutes: at - sinceMidnight, text })
  }
  return found
}

/** Moments of check-ins that are still to come, s on the lane's clock, up to its likely end. */
export function toCome(lane: Lane, until: number): number[] {
  const { placed_s, interval_min, due, finish } = lane.view
  if (placed_s === null || interval_min <= 0 || due.at_s === null) return []
  const end = Math.min(until, finish?.likely_s ?? until)
  const found = []
  for (let at = due.at_s; at <= end + 1 && found.length < 200; at += interval_min * 60) found.push(at)
  return found
}

/** Age or distance of a moment in words: 7 s, 4 min, 2 h 10. */
export function apart(seconds: number): string {
  const size = Math.abs(seconds)
  if (size < 90) return `${String(Math.round(size))} s`
  const minutes = Math.round(size / 60)
  return minutes < 100 ? `${String(minutes)} min` : `${String(Math.floor(minutes / 60))} h ${String(minutes % 60).padStart(2, '0')}`
}
