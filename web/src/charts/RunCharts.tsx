import { useMemo, useState, type KeyboardEvent } from 'react'
import type uPlot from 'uplot'
import type { Shape } from '../api/client'
import { CAUSES, MILESTONES, THRESHOLDS_C, WARN_C } from '../api/rules'
import { useSeries } from '../api/useSeries'
import { readAt } from '../ribbon/geometry'
import { HEAT_STOPS, heatColour } from '../ribbon/heat'
import { paceText, Ribbon } from '../ribbon/Ribbon'
import { clock, degreesText, duration, inDegrees } from '../ui/format'
import { useSettings, type Degrees } from '../reader/settings'
import { useWidth } from '../ui/useWidth'
import { levelAt } from './level'
import { PhaseStrip } from './PhaseStrip'
import { AXIS_PX, RIGHT_PX, TimeChart, type Curve } from './TimeChart'

const KEY_STEPS = 120
const MARKED_C = THRESHOLDS_C.filter((c) => c <= WARN_C)
const BARRED: readonly number[] = MILESTONES

interface Props {
  run: Shape['RunShape']
  lit: [number, number][]
  onPhase: (key: string) => void
  /** Whether the curves stand under the ribbon. */
  curves?: boolean
}

/** A vertical gradient of the heat scale over a chart's temperatures. */
const heatStroke = (degrees: Degrees) => (u: uPlot) => {
  const { top, height } = u.bbox
  const gradient = u.ctx.createLinearGradient(0, top + height, 0, top)
  const share = (celsius: number) => 1 - (u.valToPos(inDegrees(celsius, degrees), 'y', true) - top) / height
  for (const [celsius] of HEAT_STOPS) {
    const at = share(celsius)
    if (at >= 0 && at <= 1) gradient.addColorStop(at, heatColour(celsius))
  }
  return gradient
}

/** Whose watts are drawn: the meter's, and those that the phone reports. */
function powerTitle(data: Shape['SeriesShape']): string {
  const others = [...(data.socket_minute.length > 0 ? ['thin: at the socket'] : []), ...(data.phone_minute.length > 0 ? ['dashed: as the phone reports'] : [])]
  if (data.minute.length === 0 && others.length === 1) return data.phone_minute.length > 0 ? 'watts as the phone reports them' : 'power at the socket, W'
  return [data.minute.length > 0 ? 'power at the meter, W' : 'W', ...others].join('; ')
}

/** Ribbon, power, battery and temperature of a run on one time axis, read by one cursor. */
export function RunCharts({ run, lit, onPhase, curves = true }: Props) {
  const { degrees, theme } = useSettings()
  const [host, width] = useWidth()
  const [zoom, setZoom] = useState<[number, number] | null>(null)
  const [cursor, setCursor] = useState<number | null>(null)
  const series = useSeries(run.id, run.revision, zoom)
  const whole = useMemo<[number, number]>(() => [0, run.minutes], [run.minutes])
  const range = zoom ?? whole
  const data = series.data

  const power = useMemo<Curve[]>(
    () =>
      data
        ? [
            ...(data.minute.length > 0 ? [{ minute: data.minute, value: data.watts, dots: data.samples < 200 }] : []),
            ...(data.socket_minute.length > 0 ? [{ minute: data.socket_minute, value: data.socket_watts, dots: data.socket_minute.length < 200, width: 1 }] : []),
            ...(data.phone_minute.length > 0 ? [{ minute: data.phone_minute, value: data.phone_watts, dots: data.phone_minute.length < 200, dashed: true }] : []),
          ]
        : [],
    [data],
  )
  const battery = useMemo<Curve[]>(
    () => [
      { minute: run.level.minute, value: run.level.percent },
      { minute: run.checkins.map((c) => c.minute), value: run.checkins.map((c) => c.percent), dots: run.checkins.length < 200, loose: true },
    ],
    [run.level, run.checkins],
  )
  const heat = useMemo<Curve[]>(
    () =>
      (data?.temperatures ?? []).flatMap((t) => {
        const curve = { minute: t.minute, value: t.celsius.map((c) => inDegrees(c, degrees)) }
        // A thin dark outline keeps the line readable where it is pale.
        return [
          { ...curve, width: 3.6 },
          { ...curve, stroke: heatStroke(degrees), width: 2.2 },
        ]
      }),
    [data, degrees],
  )
  const fullWatts = Math.max(...run.summary.ribbon.watts.map((w) => w ?? 0), 5)
  const powerLimits = useMemo<[number, number]>(() => [0, Math.ceil(Math.max(...(data?.watts ?? []).map((w) => w ?? 0), ...(data?.phone_watts ?? []), ...(data?.socket_watts ?? []), 5) * 1.08)], [data])
  const heatLimits = useMemo<[number, number]>(() => {
    const all = (data?.temperatures ?? []).flatMap((t) => t.celsius)
    const [low, high] = [Math.min(24, ...all) - 1, Math.max(47, ...all) + 1.5]
    return [inDegrees(low, degrees), inDegrees(high, degrees)]
  }, [data, degrees])
  const percentLimits = useMemo<[number, number]>(() => [0, 104], [])
  const bars = useMemo(
    () =>
      run.milestones
        .filter((m) => BARRED.includes(m.percent))
        .map((m): [number, number, number] => [m.earliest, m.latest, m.percent]),
    [run.milestones],
  )
  const marks = useMemo(
    () =>
      MARKED_C.map((c, n) => ({
        value: inDegrees(c, degrees),
        text: `${inDegrees(c, degrees).toFixed(0)} °${degrees}`,
        below: c !== WARN_C,
        atLeft: n % 2 === 1,
      })),
    [degrees],
  )

  const keyed = (event: KeyboardEvent) => {
    const step = (range[1] - range[0]) / KEY_STEPS
    if (event.key === 'Escape') {
      setZoom(null)
      setCursor(null)
      return
    }
    if (event.key !== 'ArrowLeft' && event.key !== 'ArrowRight') return
    event.preventDefault()
    const from = cursor ?? range[0]
    setCursor(Math.min(range[1], Math.max(range[0], from + (event.key === 'ArrowLeft' ? -step : step))))
  }

  const at = cursor === null ? null : readAt(run.summary.ribbon, cursor)
  const percent = cursor === null ? null : levelAt(run.level, cursor)
  const hatched = useMemo(
    () =>
      (run.judged?.dips ?? []).map((d) => ({
        from: d.start,
        to: d.end,
        heat: CAUSES[d.cause].byHeat,
      })),
    [run.judged],
  )
  const common = { range, hatched, width, theme, lit, cursor, onCursor: setCursor, onRange: setZoom }
  return (
    <div ref={host} className="min-w-0">
      <div className="reading flex h-6 items-center gap-4 text-sm" style={{ paddingLeft: AXIS_PX }} aria-live="polite">
        {cursor === null || !at ? (
          <span className="soft font-sans text-xs">
            {zoom ? (
              <>
                {clock(zoom[0])} to {clock(zoom[1])}{' '}
                <button className="cursor-pointer underline" onClick={() => { setZoom(null) }}>
                  show the whole run
                </button>
              </>
            ) : (
              'point at a curve to read it · drag along one to look closer'
            )}
          </span>
        ) : (
          <>
            <span className="font-semibold">{clock(cursor)}</span>
            <span>{at.watts === null ? paceText(run.summary.ribbon, cursor) : `${at.watts.toFixed(1)} W`}</span>
            {percent !== null && <span>{percent.toFixed(0)} %</span>}
            {at.celsius !== null && (
              <span>
                {degreesText(at.celsius, degrees)} °{degrees}
              </span>
            )}
          </>
        )}
      </div>
      {width > 0 && (
        <>
          <div
            tabIndex={0}
            role="slider"
            aria-label="moment of the run"
            aria-valuemin={0}
            aria-valuemax={Math.round(run.minutes)}
            aria-valuenow={Math.round(cursor ?? 0)}
            aria-valuetext={
              cursor === null ? 'no moment chosen' : `${duration(cursor)}, ${at?.watts ? `${at.watts.toFixed(1)} watts` : paceText(run.summary.ribbon, cursor)}`
            }
            onKeyDown={keyed}
          >
            <Ribbon
              data={run.summary.ribbon}
              width={width}
              height={76}
              left={AXIS_PX}
              right={RIGHT_PX}
              fullWatts={fullWatts}
              dashed={run.simulated}
              lit={lit}
              cursor={cursor}
              onCursor={setCursor}
              label={`${run.simulated ? 'simulated ' : ''}ribbon of ${run.label}: ${run.milestones.map((m) => `${String(m.percent)} % at ${duration(m.estimate)}`).join(', ')}`}
            />
          </div>
          <table className="sr-only">
            <caption>when each level was reached, after placing</caption>
            <thead>
              <tr>
                <th scope="col">battery</th>
                <th scope="col">after</th>
                <th scope="col">estimate</th>
                <th scope="col">at the latest</th>
              </tr>
            </thead>
            <tbody>
              {run.milestones.map((m) => (
                <tr key={m.percent}>
                  <th scope="row">{m.percent} %</th>
                  <td>{duration(m.earliest)}</td>
                  <td>{duration(m.estimate)}</td>
                  <td>{duration(m.latest)}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {run.judged && run.judged.phases.length > 0 && (
            <PhaseStrip phases={run.judged.phases} range={range} width={width} onPhase={onPhase} />
          )}
          {data && curves && (
            <>
              {power.length > 0 && <TimeChart {...common} name="power" title={powerTitle(data)} curves={power} limits={powerLimits} height={152} />}
              {run.checkins.length > 0 && (
                <TimeChart
                  {...common}
                  name="battery"
                  title="battery as read off the phone, %"
                  curves={battery}
                  limits={percentLimits}
                  bars={bars}
                  height={132}
                  withTime={heat.length === 0}
                />
              )}
              {heat.length > 0 && (
                <TimeChart
                  {...common}
                  name="temperature"
                  title={`${data.temperatures.map((t) => t.position).join(', ')}, °${degrees}`}
                  curves={heat}
                  limits={heatLimits}
                  marks={marks}
                  height={158}
                  withTime
                />
              )}
            </>
          )}
        </>
      )}
    </div>
  )
}
