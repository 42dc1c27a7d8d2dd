import type { Plan, Slot } from '../../api/usePlans'
import { hourAt } from '../../ui/times'

export const LANE_PX = 96
export const TOP_PX = 22
export const BOTTOM_PX = 18
const LEAST_PX_PER_HOUR = 11
const HOUR_MS = 3_600_000

/** Where time lies: the first moment, its length, pixels for each hour. */
export interface TimeFrame {
  from: number
  to: number
  width: number
}

export interface Box {
  x: number
  width: number
}

const time = (moment: string) => new Date(moment).getTime()

/** The time that a plan spans, whole hours, now and all that has happened included. */
export function frameOf(plan: Plan, room: number): TimeFrame {
  const moments = plan.slots.flatMap((s) => [s.drain_start, s.start, s.cool_end ?? s.end]).filter((m) => m !== null)
  const all = [...moments.map(time), time(plan.now)]
  const from = Math.floor(Math.min(...all) / HOUR_MS) * HOUR_MS - HOUR_MS / 2
  const to = Math.ceil(Math.max(...all) / HOUR_MS) * HOUR_MS + HOUR_MS
  return { from, to, width: Math.max(room, ((to - from) / HOUR_MS) * LEAST_PX_PER_HOUR) }
}

export const xAt = (moment: string, frame: TimeFrame) => xOfTime(time(moment), frame)

export const xOfTime = (at: number, frame: TimeFrame) => ((at - frame.from) / (frame.to - frame.from)) * frame.width

export const pxOf = (minutes: number, frame: TimeFrame) => ((minutes * 60_000) / (frame.to - frame.from)) * frame.width

/** The phones of a plan with their slots, in the order of time. */
export function lanesOf(plan: Plan): { phone: string; slots: Slot[] }[] {
  const phones = [...new Set(plan.slots.map((s) => s.phone))]
  return phones.map((phone) => ({
    phone,
    slots: plan.slots
      .filter((s) => s.phone === phone)
      .sort((a, b) => (a.start ?? '').localeCompare(b.start ?? '') || time(a.start ?? plan.now) - time(b.start ?? plan.now)),
  }))
}

/** Stretches in which nobody is there. */
export function nights(plan: Plan, frame: TimeFrame): Box[] {
  const found: Box[] = []
  let at = frame.from
  for (const span of plan.attended) {
    const [begins, ends] = [time(span.begins), time(span.ends)]
    if (ends < frame.from || begins > frame.to) continue
    if (begins > at) found.push(boxOf(at, begins, frame))
    at = Math.max(at, ends)
  }
  if (at < frame.to) found.push(boxOf(at, frame.to, frame))
  return found
}

const boxOf = (begins: number, ends: number, frame: TimeFrame): Box => ({
  x: xOfTime(begins, frame),
  width: xOfTime(ends, frame) - xOfTime(begins, frame),
})

/** Marks of the hours 0, 4, 8 … by the clock of the plan. */
export function hours(plan: Plan, frame: TimeFrame): { x: number; hour: number }[] {
  const found = []
  for (let at = Math.ceil(frame.from / HOUR_MS) * HOUR_MS; at < frame.to; at += HOUR_MS) {
    const hour = hourAt(at, plan.wishes.zone ?? 'UTC')
    if (hour % 4 === 0 && hour !== 0) found.push({ x: xOfTime(at, frame), hour })
  }
  return found
}

/** A label for each slot of a lane: how many pixels it may take before the next one. */
export function labelRooms(slots: Slot[], frame: TimeFrame): number[] {
  return slots.map((s, i) => {
    const next = slots.slice(i + 1).find((n) => n.start)
    const own = s.start ? xAt(s.start, frame) : 0
    return (next?.start ? xAt(next.start, frame) : frame.width) - own - 4
  })
}

const PX_PER_LETTER = 5.6

/** A label cut to the room that it has. */
export const cut = (text: string, room: number) => {
  const letters = Math.max(3, Math.floor(room / PX_PER_LETTER))
  return text.length <= letters ? text : `${text.slice(0, letters - 1).trimEnd()}…`
}
