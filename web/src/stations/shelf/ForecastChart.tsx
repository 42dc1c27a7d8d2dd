import { scaleLinear } from 'd3-scale'
import { area, line } from 'd3-shape'
import type { Chain } from '../../api/useChain'
import { MILESTONES } from '../../api/rules'
import { TimeAxis } from '../../charts/TimeAxis'
import { degreesText, duration } from '../../ui/format'
import { useSettings } from '../../reader/settings'
import { useWidth } from '../../ui/useWidth'

type Forecast = Chain['forecast']
const HEIGHT = 112
const [LEFT, RIGHT, TOP, BOTTOM] = [30, 8, 6, 18]

/** A value between its ends, in words: 1 h 24 (1 h 11 to 1 h 39). */
const between = (e: Forecast['to'][number]) =>
  e.likely === null
    ? 'not reached'
    : `${duration(e.likely)} (${e.low === null ? '?' : duration(e.low)} to ${e.high === null ? 'never' : duration(e.high)})`

/** % against minutes as it is expected, with its range; when it gets to 50, 80 and 100 %, and how hot it will be. */
export function ForecastChart({ forecast }: { forecast: Forecast }) {
  const { degrees } = useSettings()
  const [box, width] = useWidth()
  const end = forecast.minutes[forecast.minutes.length - 1] ?? 60
  const x = scaleLinear([0, end], [LEFT, Math.max(LEFT + 1, width - RIGHT)])
  const y = scaleLinear([0, 100], [HEIGHT - BOTTOM, TOP])
  const at = forecast.minutes.map((minute, i) => ({
    minute,
    least: forecast.least[i] ?? 0,
    likely: forecast.likely[i] ?? 0,
    most: forecast.most[i] ?? 0,
  }))
  type At = (typeof at)[number]
  const band = area<At>((d) => x(d.minute), (d) => y(d.least), (d) => y(d.most))
  const curve = line<At>((d) => x(d.minute), (d) => y(d.likely))
  const throttle = forecast.throttle
  const hottest = forecast.hottest_c
  return (
    <div className="grid grid-cols-[1fr_auto] gap-x-4">
      <div ref={box} className="min-w-0">
        {width > 0 && (
          <svg width={width} height={HEIGHT} role="img" aria-label="forecast: percent against minutes, with its range">
            {[0, ...MILESTONES].map((p) => (
              <g key={p}>
                <line x1={LEFT} x2={width - RIGHT} y1={y(p)} y2={y(p)} stroke="var(--color-base-300)" />
                <text x={LEFT - 4} y={y(p) + 4} textAnchor="end" className="fill-secondary text-[11px]">
                  {p}
                </text>
              </g>
            ))}
            <TimeAxis to={end} most={7} x={x} y={HEIGHT - 4} />
            <path d={band(at) ?? ''} fill="var(--color-base-content)" opacity={0.13} />
            <path d={curve(at) ?? ''} fill="none" stroke="var(--color-base-content)" strokeWidth={1.5} strokeDasharray="5 3" />
            {throttle && (
              <g>
                <line
                  x1={x(throttle.minute)}
                  x2={x(throttle.minute)}
                  y1={TOP}
                  y2={HEIGHT - BOTTOM}
                  stroke="var(--color-error)"
                  strokeDasharray="2 2"
                />
                <text x={x(throttle.minute) + 4} y={TOP + 10} className="fill-error text-[11px]">
                  heat
                </text>
              </g>
            )}
          </svg>
        )}
      </div>
      <dl className="grid grid-cols-[auto_auto] content-start gap-x-3 text-sm">
        {forecast.to.map((m) => (
          <div key={m.percent} className="contents">
            <dt className="soft text-right">{m.percent} %</dt>
            <dd>{between(m)}</dd>
          </div>
        ))}
        <dt className="soft text-right">hottest</dt>
        <dd>
          {hottest.likely === null ? '' : `${degreesText(hottest.likely, degrees)} °${degrees}`}
          {hottest.low !== null && hottest.high !== null && hottest.high - hottest.low > 0.15
            ? ` (${degreesText(hottest.low, degrees)} to ${degreesText(hottest.high, degrees)})`
            : ''}
        </dd>
        <dt className="soft text-right">heat</dt>
        <dd>
          {throttle
            ? `takes power from ${duration(throttle.minute)}, ${throttle.percent.toFixed(0)} %`
            : 'takes no power away'}
        </dd>
        <dt className="soft text-right">drawn</dt>
        <dd>{forecast.drawn_wh.toFixed(1)} Wh</dd>
      </dl>
    </div>
  )
}
