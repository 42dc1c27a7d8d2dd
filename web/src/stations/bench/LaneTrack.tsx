import { laneNow, type Lane } from '../../api/bench'
import { Ribbon } from '../../ribbon/Ribbon'
import type { RibbonData } from '../../ribbon/geometry'
import { duration } from '../../ui/format'
import { apart } from '../../ui/times'
import { fromNow, nowX, toCome, xAt, type Axis } from './axis'
import { ghostOutline } from './ghost'

/** Steps that a lane's ribbon is drawn with at most: some pixels each, and an outline that does not grow with the hours. */
const MOST_STEPS = 120

interface Props {
  lane: Lane
  axis: Axis
  tall: boolean
  fullWatts: number
}

/** A lane on the one clock: its ribbon up to now, the forecast as a ghost, check-ins as dots. */
export function LaneTrack({ lane, axis, tall, fullWatts }: Props) {
  const { view } = lane
  const height = tall ? 72 : 34
  const middle = 14 + (height - 14) / 2
  const now = nowX(axis)
  const data = ribbonOf(lane)
  const left = view.placed_s === null ? now : xAt(fromNow(view.placed_s, lane), axis)
  const width = Math.max(1, now - left)
  const dots = tall ? height + 13 : height + 5
  const logged = spaced(
    view.checkins.map(([t]) => xAt(fromNow(t, lane), axis)),
    tall ? 12 : 8,
  )
  const coming = toCome(lane, laneNow(lane) + axis.ahead * 60).map((t) => xAt(fromNow(t, lane), axis))
  return (
    <div className="relative overflow-hidden" style={{ height: dots + 10 }}>
      {data && (
        <div className="absolute top-0" style={{ left }}>
          <Ribbon
            data={data}
            width={width}
            height={height}
            minutes={data.minutes}
            fullWatts={fullWatts}
            labels={tall}
            dashed={view.simulated}
            label={`lane ${view.name} so far: ${view.ticks.map(([p, t]) => `${String(p)} % at ${duration((t - (view.placed_s ?? 0)) / 60)}`).join(', ') || 'no tenth percent yet'}`}
          />
        </div>
      )}
      <svg width={axis.width} height={dots + 10} className="pointer-events-none absolute inset-0" aria-hidden="true">
        <path
          d={ghostOutline(lane, axis, middle, (height - 14) / 2 - (tall ? 5 : 2), fullWatts)}
          className="stroke-base-content/60 fill-none"
          strokeDasharray="3 3"
        />
        {logged.map((x, i) => (
          <circle key={i} cx={x} cy={dots} r={tall ? 4.5 : 3} className="fill-base-content" />
        ))}
        {coming.map((x, i) => (
          <circle key={i} cx={x} cy={dots} r={tall ? 4 : 2.6} className="fill-base-100 stroke-base-content" strokeWidth="1.4" />
        ))}
      </svg>
    </div>
  )
}

/** The ribbon of a lane so far, from its placing; none before. */
function ribbonOf(lane: Lane): RibbonData | null {
  const { placed_s, ticks } = lane.view
  if (placed_s === null) return null
  const first = Math.floor(placed_s / lane.stepS)
  const minutes = Math.max(0.05, (laneNow(lane) - placed_s) / 60)
  const watts = bridged(lane.watts.slice(first), Math.ceil(lane.holeS / lane.stepS))
  if (watts.length === 0) return null
  const every = Math.max(1, Math.ceil(watts.length / MOST_STEPS))
  return {
    step_min: (lane.stepS * every) / 60,
    watts: thinned(watts, every),
    celsius: lane.celsius.length > 0 ? held(thinned(lane.celsius.slice(first, first + watts.length), every)) : null,
    ticks: ticks.map(([percent, t]) => ({ percent, minute: (t - placed_s) / 60 })),
    minutes,
    marks: [],
    pace: [],
  }
}

/** Dots that do not touch: of those nearer together one is drawn. */
function spaced(xs: number[], least: number): number[] {
  const kept: number[] = []
  for (const x of xs) if (kept.length === 0 || x - (kept[kept.length - 1] ?? 0) >= least) kept.push(x)
  return kept
}

/** Short holes are bridged, as in a reading of the run; longer ones stay holes. */
function bridged(values: (number | null)[], most: number): (number | null)[] {
  const found = Array.from(values, (v) => v ?? null)
  let last = -1
  found.forEach((v, i) => {
    if (v === null) return
    if (last >= 0 && i - last > 1 && i - last <= most) for (let j = last + 1; j < i; j++) found[j] = found[last] ?? null
    last = i
  })
  return found
}

/** Means of so many steps each; empty where none of them was measured. */
function thinned(values: (number | null)[], every: number): (number | null)[] {
  if (every === 1) return Array.from(values, (v) => v ?? null)
  const found: (number | null)[] = []
  for (let i = 0; i < values.length; i += every) {
    const part = values.slice(i, i + every).filter((v): v is number => typeof v === 'number')
    found.push(part.length > 0 ? part.reduce((a, b) => a + b, 0) / part.length : null)
  }
  return found
}

/** A temperature holds until the next one, for the colour alone. */
function held(values: (number | null)[]): (number | null)[] {
  let last: number | null = null
  return values.map((v) => {
    last = v ?? last
    return last
  })
}

/** What is said of the next check-in, beside the line of now. */
export function DueChip({ lane }: { lane: Lane }) {
  const { due, name } = lane.view
  if (due.state === 'none' || due.at_s === null) return null
  const away = due.at_s - laneNow(lane)
  if (due.state === 'late')
    return <span className="bg-neutral text-neutral-content px-2 py-0.5 text-xs font-semibold">check-in {name} late by {apart(away)}</span>
  if (due.state === 'due') return <span className="border-base-content border px-2 py-0.5 text-xs font-semibold">check-in {name} now</span>
  return <span className="soft text-xs">check-in {name} in {apart(away)}</span>
}
