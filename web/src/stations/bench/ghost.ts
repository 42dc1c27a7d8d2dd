import type { Lane } from '../../api/bench'
import { laneNow } from '../../api/bench'
import { xAt, type Axis } from './axis'

/** The outline of what is still to come: the forecast at the lane's own pace, from now on. */
export function ghostOutline(lane: Lane, axis: Axis, middle: number, halfHeight: number, fullWatts: number): string {
  const { ghost, view } = lane
  if (!ghost) return ''
  const now = laneNow(lane)
  const pace = view.finish?.pace ?? 1
  const begun = view.placed_s === null ? 0 : (now - view.placed_s) / 60 / pace
  const points = ghost.watts
    .map((watts, i) => ({ minute: (i + 0.5) * ghost.step_min, half: Math.max(0.7, (watts / fullWatts) * halfHeight) }))
    .filter((p) => p.minute >= begun)
    .map((p) => ({ x: xAt((p.minute - begun) * pace, axis), half: p.half }))
    .filter((p) => p.x <= axis.width)
  if (points.length < 2) return ''
  const over = points.map((p) => `${p.x.toFixed(1)} ${(middle - p.half).toFixed(1)}`)
  const under = points.map((p) => `${p.x.toFixed(1)} ${(middle + p.half).toFixed(1)}`)
  return `M${over.join('L')}M${under.join('L')}`
}
