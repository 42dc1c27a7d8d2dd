import { useSettings } from '../reader/settings'
import { inDegrees } from '../ui/format'
import { HEAT_STOPS } from './heat'

/** What height and colour of a ribbon mean. */
export function Legend() {
  const { degrees } = useSettings()
  const [low, high] = [HEAT_STOPS[0]?.[0] ?? 0, HEAT_STOPS[HEAT_STOPS.length - 1]?.[0] ?? 0]
  const stops = HEAT_STOPS.map(([c, colour]) => `${colour} ${String(((c - low) / (high - low)) * 100)}%`).join(', ')
  return (
    <span className="soft flex items-center gap-2 text-xs whitespace-nowrap">
      height: watts in (dotted: no meter, pace) · colour: {inDegrees(low, degrees).toFixed(0)}
      <span className="border-base-content h-2.5 w-20 border" style={{ background: `linear-gradient(90deg, ${stops})` }} />
      {inDegrees(high, degrees).toFixed(0)} °{degrees}
    </span>
  )
}
