import { useId, useState, type MouseEvent } from 'react'
import { clock, degreesText } from '../ui/format'
import { useSettings } from '../reader/settings'
import { colourStops, heatStretches, isPaced, lastOf, minuteAt, outline, paceAt, readAt, ticks, xOf, type Frame, type RibbonData } from './geometry'

interface Props {
  data: RibbonData
  width: number
  height: number
  /** Minutes that the whole width stands for; the ribbon's own length if left out. */
  minutes?: number
  /** The minute at the left edge, where ribbons are laid together by something else than their placing. */
  origin?: number
  /** Watts at which the band is as high as it may be. */
  fullWatts: number
  labels?: boolean
  left?: number
  right?: number
  label: string
  /** Drawn with a broken outline: it was simulated, not measured. A run without a meter has a dotted one. */
  dashed?: boolean
  /** Stretches to light up, minutes. */
  lit?: [number, number][]
  /** The moment to mark, minutes; where it is given, `onCursor` hears what is pointed at and the reading stands elsewhere. */
  cursor?: number | null
  onCursor?: (minute: number | null) => void
}

/** The ribbon of a run: height is input power, or without a meter the pace of the percentages; colour is the phone's
 * temperature, a tick every ten percent of battery. */
export function Ribbon(props: Props) {
  const { data, width, height, fullWatts, labels = true, left = 0, right = 0, label, lit = [], cursor, onCursor } = props
  const id = useId()
  const { degrees } = useSettings()
  const [pointed, setPointed] = useState<number | null>(null)
  const minutes = props.minutes ?? data.minutes
  const top = labels ? 14 : 1
  const frame: Frame = {
    left,
    width: Math.max(1, width - left - right),
    origin: props.origin ?? 0,
    minutes,
    middle: top + (height - top) / 2,
    halfHeight: (height - top) / 2 - (labels ? 5 : 2),
    fullWatts,
  }
  const band = outline(data, frame)
  const paced = isPaced(data)
  const last = lastOf(frame)
  const hatched = heatStretches(data).filter(([from]) => from < last)
  const end = xOf(Math.min(last, data.minutes), frame)
  const runsOn = data.minutes > frame.origin + minutes * 1.001
  const reach = frame.halfHeight + (labels ? 3 : 1)
  const point = (event: MouseEvent) => {
    const minute = minuteAt(event.clientX - event.currentTarget.getBoundingClientRect().left, frame)
    ;(onCursor ?? setPointed)(minute >= 0 && minute <= data.minutes ? minute : null)
  }
  const leave = () => {
    ;(onCursor ?? setPointed)(null)
  }
  const marked = cursor ?? pointed
  return (
    <svg
      width={width}
      height={height}
      role="img"
      aria-label={label}
      className="block select-none"
      onMouseMove={point}
      onMouseLeave={leave}
    >
      <defs>
        <linearGradient
          id={id}
          gradientUnits="userSpaceOnUse"
          x1={xOf(0, frame)}
          x2={xOf(data.minutes, frame)}
          y1="0"
          y2="0"
        >
          {colourStops(data).map((s) => (
            <stop key={s.offset} offset={s.offset} stopColor={s.colour} />
          ))}
        </linearGradient>
        {hatched.length > 0 && (
          <>
            {/* On the band a hatch is dark in either theme, as the band is light in both. */}
            <pattern id={`${id}h`} width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
              <line x1="0" x2="0" y1="0" y2="5" stroke="#1c1f26" strokeWidth="1.1" />
            </pattern>
            <clipPath id={`${id}c`}>
              {hatched.map(([from, to]) => (
                <rect key={from} x={xOf(from, frame)} width={Math.max(1, xOf(to, frame) - xOf(from, frame))} y="0" height={height} />
              ))}
            </clipPath>
          </>
        )}
      </defs>
      {lit.map(([from, to]) => (
        <rect
          key={from}
          x={xOf(Math.max(0, from), frame)}
          width={Math.max(2, xOf(Math.min(last, to), frame) - xOf(Math.max(0, from), frame))}
          y={top - 2}
          height={height - top + 2}
          className="fill-base-content/10"
        />
      ))}
      <path
        d={band}
        fill={`url(#${id})`}
        fillOpacity={paced ? 0.55 : 1}
        className="stroke-base-content"
        strokeWidth={paced ? 1.5 : 0.9}
        strokeLinecap={paced ? 'round' : undefined}
        strokeDasharray={paced ? (props.dashed ? '4 3 0.1 3' : '0.1 3') : props.dashed ? '3 2.5' : undefined}
      />
      {hatched.length > 0 && <path d={band} fill={`url(#${id}h)`} clipPath={`url(#${id}c)`} />}
      {ticks(data, frame).map((t) => (
        <g key={t.percent} className="stroke-base-content">
          <line
            x1={t.x}
            x2={t.x}
            y1={frame.middle - (t.label ? reach + 2 : reach - 4)}
            y2={frame.middle + (t.label ? reach : reach - 4)}
            strokeWidth={t.label ? 1.6 : 0.8}
          />
          {/* On the band a tick is dark in either theme, as the band is light in both. */}
          <line
            x1={t.x}
            x2={t.x}
            y1={frame.middle - Math.min(t.half, reach - 4)}
            y2={frame.middle + Math.min(t.half, reach - 4)}
            stroke="#1c1f26"
            strokeWidth={t.label ? 1.6 : 0.8}
          />
          {labels && t.label && (
            <text x={t.x} y={10} textAnchor="middle" className="fill-base-content stroke-none text-[11px]">
              {t.percent}
            </text>
          )}
        </g>
      ))}
      {runsOn && (
        <path
          d={`M${String(end - 7)} ${String(frame.middle + 9)} l6 -18 M${String(end - 2)} ${String(frame.middle + 9)} l6 -18`}
          className="stroke-base-content"
          strokeWidth="1.6"
        >
          <title>goes on to {clock(data.minutes)}</title>
        </path>
      )}
      {marked !== null && (
        <line
          x1={xOf(marked, frame)}
          x2={xOf(marked, frame)}
          y1={top - 3}
          y2={height}
          className="stroke-base-content"
          strokeDasharray="3 2"
        />
      )}
      {pointed !== null && <ReadOut x={xOf(pointed, frame)} width={width} y={frame.middle} text={textAt(data, pointed, degrees)} />}
    </svg>
  )
}

/** The pace at a minute, or that nothing was metered there. */
export function paceText(data: RibbonData, minute: number): string {
  const pace = paceAt(data, minute)
  return pace === null ? 'not metered' : `${pace.toFixed(2)} points/min`
}

/** What the ribbon holds at a minute, in one line. */
function textAt(data: RibbonData, minute: number, degrees: 'C' | 'F'): string {
  const { watts, celsius } = readAt(data, minute)
  const power = watts === null ? paceText(data, minute) : `${watts.toFixed(1)} W`
  const heat = celsius === null ? [] : [`${degreesText(celsius, degrees)} °${degrees}`]
  const percent = data.ticks.findLast((t) => t.minute <= minute)
  return [clock(minute), power, ...(percent ? [`past ${String(percent.percent)} %`] : []), ...heat].join(' · ')
}

function ReadOut({ x, y, width, text }: { x: number; y: number; width: number; text: string }) {
  const room = text.length * 5.1 + 14
  const left = x + 8 + room > width ? x - 8 - room : x + 8
  return (
    <g pointerEvents="none">
      <rect x={left} y={y - 10} width={room} height={20} rx={2} className="fill-neutral" />
      <text x={left + 6} y={y + 4} className="fill-neutral-content text-[11px]">
        {text}
      </text>
    </g>
  )
}
