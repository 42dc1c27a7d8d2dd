import type { Shape } from '../../api/client'
import { useWidth } from '../../ui/useWidth'

const HIGH = 150
const LEFT = 40
const RIGHT = 8
const BELOW = 20
const WIDE_LABEL = 44

type Test = Shape['PackTestShape']

interface Scale {
  x: (at: number) => number
  y: (volts: number) => number
  most: number
}

function scale(width: number, first: number, last: number, highest: number): Scale {
  const most = Math.max(highest, 1) * 1.06
  return {
    x: (at) => LEFT + ((at - first) / Math.max(1e-9, last - first)) * Math.max(10, width - LEFT - RIGHT),
    y: (volts) => HIGH - (volts / most) * (HIGH - 14),
    most,
  }
}

const described = (test: Test) => `volts under load: ${test.steps.map((s) => `${s.volts.toFixed(2)} V at ${s.amps.toFixed(2)} A`).join(', ')}`

/** Volts under load: over the minutes of a log with the amps of each step and where the output went; off a display, over the amps. */
export function LoadChart({ test }: { test: Test }) {
  const [host, width] = useWidth()
  return (
    <div ref={host} className="min-w-0">
      <svg role="img" aria-label={described(test)} width={width} height={HIGH + BELOW} className="block">
        {test.by_eye ? <OverAmps test={test} width={width} /> : <OverTime test={test} width={width} />}
      </svg>
    </div>
  )
}

function Volts({ scale: { y, most }, width }: { scale: Scale; width: number }) {
  return [0, Math.round(most / 2), Math.round(most)].map((v) => (
    <g key={v}>
      <path d={`M ${String(LEFT)} ${String(y(v))} H ${String(width - RIGHT)}`} className="stroke-base-300" />
      <text x={LEFT - 6} y={y(v) + 4} textAnchor="end" className="soft fill-current text-[11px]">
        {v} V
      </text>
    </g>
  ))
}

function OverTime({ test, width }: { test: Test; width: number }) {
  const drawn = test.traces.flatMap((t) => (t.volts ? [{ minute: t.minute, volts: t.volts }] : []))
  const [first, last] = [Math.min(...drawn.map((t) => t.minute[0] ?? 0)), Math.max(...drawn.map((t) => t.minute.at(-1) ?? 1))]
  const own = scale(width, first, last, Math.max(...drawn.flatMap((t) => t.volts)))
  const { x, y } = own
  const gone = test.tripped ?? test.cut_off
  const at = test.steps.at(-1)?.volts ?? 0
  return (
    <>
      <Volts scale={own} width={width} />
      {test.no_load_v !== null && (
        <text x={width - RIGHT} y={y(test.no_load_v) - 5} textAnchor="end" className="soft fill-current text-[11px]">
          {test.no_load_v.toFixed(1)} V with no load
        </text>
      )}
      {drawn.map((t, n) => (
        <polyline
          key={n}
          points={t.minute.map((m, i) => `${x(m).toFixed(1)},${y(t.volts[i] ?? 0).toFixed(1)}`).join(' ')}
          fill="none"
          className="stroke-current"
          strokeWidth={1.6}
          strokeDasharray={n === 0 ? undefined : '4 3'}
        />
      ))}
      {gone !== null && (
        <g>
          <circle cx={x(gone)} cy={y(at)} r={4.5} className="fill-base-100 stroke-current" strokeWidth={1.6} />
          <text x={x(gone) - 8} y={y(at) + 20} textAnchor="end" className="fill-current text-xs">
            {test.tripped !== null ? 'let go' : 'cut off'}
          </text>
        </g>
      )}
      {test.steps
        .filter((s) => x(s.end) - x(s.start) >= WIDE_LABEL)
        .map((s) => (
          <text key={s.start} x={(x(s.start) + x(s.end)) / 2} y={HIGH + 15} textAnchor="middle" className="fill-current text-[11px]">
            {s.amps.toFixed(2)} A
          </text>
        ))}
    </>
  )
}

function OverAmps({ test, width }: { test: Test; width: number }) {
  const idle = test.no_load_v === null ? [] : [{ amps: 0, volts: test.no_load_v }]
  const points = [...idle, ...test.steps].sort((a, b) => a.amps - b.amps)
  const own = scale(width, 0, Math.max(...points.map((p) => p.amps)) * 1.1, Math.max(...points.map((p) => p.volts)))
  const { x, y } = own
  return (
    <>
      <Volts scale={own} width={width} />
      <polyline points={points.map((p) => `${x(p.amps).toFixed(1)},${y(p.volts).toFixed(1)}`).join(' ')} fill="none" className="stroke-current" strokeWidth={1.2} />
      {points.map((p) => (
        <g key={`${String(p.amps)} ${String(p.volts)}`}>
          <circle cx={x(p.amps)} cy={y(p.volts)} r={4} className="fill-base-100 stroke-current" strokeWidth={1.6} />
          <text x={x(p.amps)} y={HIGH + 15} textAnchor="middle" className="fill-current text-[11px]">
            {p.amps.toFixed(1)} A
          </text>
        </g>
      ))}
    </>
  )
}
