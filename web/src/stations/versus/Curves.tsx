import { scaleLinear } from 'd3-scale'
import { line } from 'd3-shape'
import { useState, type MouseEvent } from 'react'
import type { Versus } from '../../api/useVersus'
import { levelAt } from '../../charts/level'
import { TimeAxis } from '../../charts/TimeAxis'
import { clock } from '../../ui/format'
import { useWidth } from '../../ui/useWidth'
import { sooner } from './Stack'
import { begun, unbroken } from '../../ui/text'
import { Wide } from '../../ui/Wide'

const HIGH = 300
const EDGE = { left: 40, right: 250, top: 20, bottom: 26 }
const LABEL_PX = 17
/** Under this width the names stand below the curves, and not beside them. */
const NARROW_PX = 560
const NARROW_RIGHT = 14
/** Where along their curves the numbers stand, so that neighbours do not cover each other [%]. */
const NUMBERED_AT = [88, 74, 60, 46]
/** Colour and dash step at different paces, so that 25 curves differ, and neighbours in both; each colour has a lightness of its own. */
const COLOURS = [0, 1, 2, 3, 4].map((n) => `var(--curve-${String(n)})`)
const DASHES = ['', '7 3', '2 3', '9 3 2 3', '14 4']
const colourOf = (i: number) => COLOURS[i % COLOURS.length]
const dashOf = (i: number) => DASHES[(i + Math.floor(i / COLOURS.length)) % DASHES.length]

interface Props {
  versus: Versus
  chosen: number | null
  onChoose: (n: number | null) => void
}

/** Battery curves laid over each other; each has a colour, a dash and, among many, a number of its own; the one pointed at stands out. */
export function Curves({ versus, chosen, onChoose }: Props) {
  const [box, width] = useWidth()
  const [pointed, setPointed] = useState<number | null>(null)
  const [minute, setMinute] = useState<number | null>(null)
  const rows = versus.rows
  const most = Math.max(30, ...rows.flatMap((r) => r.curve.minute))
  const least = Math.min(0, ...rows.flatMap((r) => r.curve.minute))
  const below = width < NARROW_PX
  const x = scaleLinear([least, most], [EDGE.left, Math.max(EDGE.left + 50, width - (below ? NARROW_RIGHT : EDGE.right))])
  const y = scaleLinear([0, 100], [HIGH - EDGE.bottom, EDGE.top])
  const lit = pointed ?? chosen
  const order = sooner(rows)
  const labels = order.map((n, i) => ({ n, y: (below ? HIGH + 4 : EDGE.top + 6) + i * LABEL_PX }))
  const labelX = below ? EDGE.left : x(most) + 10
  // More curves than there are colours bear numbers.
  const numbered = rows.length > COLOURS.length
  const draw = line<[number, number | null]>()
    .defined(([, p]) => p !== null)
    .x(([m]) => x(m))
    .y(([, p]) => y(p ?? 0))
  const point = (event: MouseEvent) => {
    const at = x.invert(event.clientX - event.currentTarget.getBoundingClientRect().left)
    setMinute(at >= least && at <= most ? at : null)
  }
  return (
    <div ref={box}>
      {width > 0 && (
        <svg
          width={width}
          height={below ? HIGH + order.length * LABEL_PX : HIGH}
          role="img"
          aria-label={`battery of ${rows.map((r) => r.label).join(', ')} over time`}
          onMouseMove={point}
          onMouseLeave={() => {
            setMinute(null)
            setPointed(null)
          }}
        >
          {[0, 20, 40, 60, 80, 100].map((p) => (
            <g key={p}>
              <line x1={EDGE.left} x2={x(most)} y1={y(p)} y2={y(p)} className="stroke-base-300" />
              <text x={EDGE.left - 6} y={y(p) + 4} textAnchor="end" className="fill-secondary text-[11px]">
                {p === 100 ? '100 %' : p}
              </text>
            </g>
          ))}
          <TimeAxis to={most} most={9} x={x} y={HIGH - 8} />
          {[versus.window.start, versus.window.end].map((p) => (
            <g key={p}>
              <line x1={EDGE.left} x2={x(most)} y1={y(p)} y2={y(p)} className="stroke-base-content" strokeDasharray="1 4" />
              <text x={x(most)} y={y(p) - 4} textAnchor="end" className="fill-base-content stroke-base-100 text-[11px]" strokeWidth="3" paintOrder="stroke">
                {p === versus.window.start ? 'from' : 'to'} {p} %
              </text>
            </g>
          ))}
          {order.map((n, i) => {
            const row = rows[n]
            return (
              row && (
                <path
                  key={n}
                  d={draw(untilFull(row.curve)) ?? ''}
                  fill="none"
                  strokeDasharray={dashOf(i)}
                  stroke={colourOf(i)}
                  strokeOpacity={lit === null || lit === n ? 1 : 0.35}
                  strokeWidth={lit === n ? 3.2 : 1.8}
                />
              )
            )
          })}
          {numbered && order.map((n, i) => rows[n] && <NumberOn key={n} row={rows[n]} n={i} x={x} y={y} lit={lit === n} />)}
          {minute !== null && (
            <>
              <line x1={x(minute)} x2={x(minute)} y1={EDGE.top} y2={HIGH - EDGE.bottom} className="stroke-base-content" strokeDasharray="3 2" />
              <text x={x(minute) + 5} y={HIGH - EDGE.bottom - 5} className="fill-base-content text-[11px] font-semibold">
                {clock(minute)}
              </text>
            </>
          )}
          {labels.map(({ n, y: at }, i) => {
            const row = rows[n]
            const percent = row && minute !== null ? levelAt(row.curve, minute) : null
            return (
              row && (
                <g
                  key={n}
                  className="cursor-pointer"
                  onMouseEnter={() => {
                    setPointed(n)
                  }}
                  onClick={() => {
                    onChoose(chosen === n ? null : n)
                  }}
                >
                  <line x1={labelX} x2={labelX + 22} y1={at} y2={at} stroke={colourOf(i)} strokeWidth={lit === n ? 3.2 : 2} strokeDasharray={dashOf(i)} />
                  <text x={labelX + 27} y={at + 4} className={`fill-base-content text-[12px] ${lit === n ? 'font-bold' : ''}`}>
                    {numbered && <tspan className="font-semibold">{i + 1} </tspan>}
                    {percent !== null && `${percent.toFixed(0)} % `}
                    {short(begun(row.label), (percent === null ? 34 : 28) - (numbered ? 3 : 0))}
                    <title>{row.label}</title>
                  </text>
                </g>
              )
            )
          })}
        </svg>
      )}
      <PercentTable versus={versus} order={order} numbered={numbered} />
    </div>
  )
}

/** The points of a curve that are drawn: the line of a full phone would only cover others. */
function untilFull({ minute, percent }: Versus['rows'][number]['curve']): [number, number | null][] {
  const full = percent.findIndex((p) => p === 100)
  return minute.slice(0, full < 0 ? undefined : full + 1).map((m, k) => [m, percent[k] ?? null])
}

interface NumberProps {
  row: Versus['rows'][number]
  n: number
  x: (minute: number) => number
  y: (percent: number) => number
  lit: boolean
}

/** The number of a curve, on it. */
function NumberOn({ row, n, x, y, lit }: NumberProps) {
  const wanted = NUMBERED_AT[n % NUMBERED_AT.length] ?? 50
  const found = row.curve.percent.findIndex((p) => p !== null && p >= wanted)
  const k = found < 0 ? row.curve.percent.findLastIndex((p) => p !== null) : found
  const [minute, percent] = [row.curve.minute[k], row.curve.percent[k]]
  if (minute === undefined || percent === undefined || percent === null) return null
  return (
    <g aria-hidden className="pointer-events-none">
      <circle cx={x(minute)} cy={y(percent)} r={7} stroke={colourOf(n)} className={lit ? 'fill-neutral' : 'fill-base-100'} />
      <text x={x(minute)} y={y(percent) + 4} textAnchor="middle" className={`text-[11px] font-semibold ${lit ? 'fill-neutral-content' : 'fill-base-content'}`}>
        {n + 1}
      </text>
    </g>
  )
}

const short = (text: string, most: number) => (text.length > most ? `${text.slice(0, most - 1)}…` : text)

/** Battery at fixed minutes, and the minutes to each milestone, as a table. */
function PercentTable({ versus, order, numbered }: { versus: Versus; order: number[]; numbered: boolean }) {
  const minutes = [...new Set(versus.rows.flatMap((r) => r.percent_at.map((p) => p.minute)))].sort((a, b) => a - b)
  return (
    <Wide least={26} className="mt-2 text-sm">
      <thead className="soft border-base-300 border-b text-xs">
        <tr>
          <th className="pr-6 text-left font-normal">{versus.align === 'placement' ? 'battery, minutes after placing' : `battery, minutes after ${String(versus.window.start)} %`}</th>
          {minutes.map((m) => (
            <th key={m} scope="col" className="px-2 text-right font-normal whitespace-nowrap">
              {m} min
            </th>
          ))}
          {versus.tops.map((t) => (
            <th key={t} scope="col" className="pl-5 text-right font-normal whitespace-nowrap">
              {versus.window.start} to {t} %
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {order.map((n, i) => {
          const row = versus.rows[n]
          return (
            row && (
              <tr key={n} className="border-base-300 border-b">
                <th scope="row" className="py-0.5 pr-6 text-left font-normal">
                  {numbered && <span className="soft inline-block w-6">{i + 1}</span>}
                  {unbroken(begun(row.label))}
                </th>
                {minutes.map((m) => {
                  const at = row.percent_at.find((p) => p.minute === m)
                  return (
                    <td key={m} className="reading px-2 text-right">
                      {at ? `${at.percent.toFixed(0)} %` : <span className="soft">–</span>}
                    </td>
                  )
                })}
                {versus.tops.map((t) => {
                  const found = row.milestones.find((x) => x.percent === t)
                  return (
                    <td key={t} className="reading pl-5 text-right whitespace-nowrap">
                      {found ? (
                        <>
                          {found.minutes.estimate.toFixed(0)} min
                          <span className="soft text-xs">
                            {' '}
                            {found.minutes.earliest.toFixed(0)}–{found.minutes.latest.toFixed(0)}
                          </span>
                        </>
                      ) : (
                        <span className="soft">–</span>
                      )}
                    </td>
                  )
                })}
              </tr>
            )
          )
        })}
      </tbody>
    </Wide>
  )
}
