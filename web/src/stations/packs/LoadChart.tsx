import type { Shape } from '../../api/client'
import { useWidth } from '../../ui/useWidth'

const HIGH = 150
const LEFT = 40
const BELOW = 20

/** Volts under load over the minutes of a test, with the amps of each step, and where the output went. */
export function LoadChart({ test }: { test: Shape['PackTestShape'] }) {
  const [host, width] = useWidth()
  const { minute, volts } = test
  const [first, last] = [minute[0] ?? 0, minute.at(-1) ?? 1]
  const most = Math.max(...volts, 1) * 1.06
  const x = (m: number) => LEFT + ((m - first) / Math.max(1e-9, last - first)) * Math.max(10, width - LEFT - 8)
  const y = (v: number) => HIGH - (v / most) * (HIGH - 14)
  const gone = test.tripped ?? test.cut_off
  const wide = test.steps.filter((s) => x(s.end) - x(s.start) >= 44)
  return (
    <div ref={host} className="min-w-0">
      <svg
        role="img"
        aria-label={`volts under load: ${test.steps.map((s) => `${s.volts.toFixed(2)} V at ${s.amps.toFixed(2)} A`).join(', ')}`}
        width={width}
        height={HIGH + BELOW}
        className="block"
      >
        {[0, Math.round(most / 2), Math.round(most)].map((v) => (
          <g key={v}>
            <path d={`M ${String(LEFT)} ${String(y(v))} H ${String(width - 8)}`} className="stroke-base-300" />
            <text x={LEFT - 6} y={y(v) + 4} textAnchor="end" className="soft fill-current text-[11px]">
              {v} V
            </text>
          </g>
        ))}
        <polyline
          points={minute.map((m, i) => `${x(m).toFixed(1)},${y(volts[i] ?? 0).toFixed(1)}`).join(' ')}
          fill="none"
          className="stroke-current"
          strokeWidth={1.6}
        />
        {gone !== null && (
          <g>
            <circle cx={x(gone)} cy={y(test.steps.at(-1)?.volts ?? 0)} r={4.5} className="fill-base-100 stroke-current" strokeWidth={1.6} />
            <text x={x(gone) - 8} y={y(test.steps.at(-1)?.volts ?? 0) + 20} textAnchor="end" className="fill-current text-xs">
              {test.tripped !== null ? 'let go' : 'cut off'}
            </text>
          </g>
        )}
        {wide.map((s) => (
          <text key={s.start} x={(x(s.start) + x(s.end)) / 2} y={HIGH + 15} textAnchor="middle" className="fill-current text-[11px]">
            {s.amps.toFixed(2)} A
          </text>
        ))}
      </svg>
    </div>
  )
}
