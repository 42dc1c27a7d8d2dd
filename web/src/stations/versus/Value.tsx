import { scaleLinear } from 'd3-scale'
import type { Shape } from '../../api/client'
import type { Row, Versus } from '../../api/useVersus'
import { heatColour } from '../../ribbon/heat'
import { degreesText, inDegrees } from '../../ui/format'
import { useSettings } from '../../reader/settings'
import { HabitsForm } from '../../shared/HabitsForm'
import { sooner } from './Stack'
import { begun, unbroken } from '../../ui/text'
import { Wide } from '../../ui/Wide'

/** Money and watt-hours: what a charge takes, what a minute saved costs, time against heat and against price. */
export function Value({ versus }: { versus: Versus }) {
  const { degrees } = useSettings()
  const order = sooner(versus.rows)
  const rows = order.map((n) => versus.rows[n]).filter((r): r is Row => r !== undefined)
  const window = `${String(versus.window.start)} to ${String(versus.window.end)} %`
  return (
    <div className="mt-1">
      <div className="grid grid-cols-2 gap-6 max-lg:grid-cols-1">
        <Scatter
          title={`minutes for ${window}, against the hottest °${degrees}`}
          rows={rows}
          value={(r) => (r.hottest_c === null ? null : inDegrees(r.hottest_c, degrees))}
          text={(r) => (r.hottest_c === null ? '' : `${degreesText(r.hottest_c, degrees)} °${degrees}`)}
          fill={(r) => (r.hottest_c === null ? undefined : heatColour(r.hottest_c))}
          unit={`°${degrees}`}
          empty="No probe was on two of these runs."
        />
        <Scatter
          title={`minutes for ${window}, against the charger's price${versus.currencies.length === 1 ? ` in ${versus.currencies[0] ?? ''}` : ''}`}
          rows={versus.currencies.length > 1 ? [] : rows}
          value={(r) => r.price}
          text={(r) => (r.price === null ? '' : `${r.price.toFixed(0)} ${r.currency}`)}
          unit={versus.currencies[0] ?? ''}
          empty={
            versus.currencies.length > 1
              ? `Prices stand in ${versus.currencies.join(' and ')}: they cannot be held against each other.`
              : 'Give chargers a price on the shelf: then it shows here what a minute costs.'
          }
        />
      </div>
      {versus.bargains.length > 0 && (
        <ul className="mt-3 text-sm">
          {versus.bargains.slice(0, 8).map((b) => (
            <li key={`${String(b.dearer)} ${String(b.cheaper)}`} className={`border-base-300 border-b py-1 ${!b.buys ? 'soft' : ''}`}>
              {unbroken(b.said)}.
            </li>
          ))}
        </ul>
      )}
      <Charges rows={rows} window={window} />
      <HabitsForm about="charges" />
    </div>
  )
}

function Charges({ rows, window }: { rows: Row[]; window: string }) {
  if (!rows.some((r) => r.charge)) return <p className="soft mt-3">None of these runs was metered: no energy, and no cost.</p>
  return (
    <Wide least={44} className="mt-3 w-full text-sm">
      <thead className="soft border-base-300 border-b text-xs">
        <tr>
          <th className="py-1 text-left font-normal">one charge, {window}</th>
          <th className="py-1 text-right font-normal">at the meter</th>
          <th className="py-1 text-right font-normal">from the socket</th>
          <th className="py-1 text-right font-normal">from a hut's battery</th>
          <th className="py-1 text-right font-normal">against the least of its phone</th>
          <th className="py-1 text-right font-normal">costs</th>
          <th className="py-1 text-right font-normal">a year</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((r) => (
          <tr key={r.label} className="border-base-300 border-b">
            <th scope="row" className="py-1 text-left font-normal">
              {begun(r.label)}
            </th>
            {r.charge ? (
              <>
                <Wh value={r.charge.meter_wh} />
                <Wh value={r.charge.wall_wh} note={r.charge.wall_measured ? 'measured' : ''} />
                <Wh value={r.charge.hut_wh} bold />
                <td className="reading py-1 text-right">{r.charge.more_percent === null ? <span className="soft" title="no other row fills this battery">–</span> : r.charge.more_percent > 0 ? `+${r.charge.more_percent.toFixed(0)} %` : 'least'}</td>
                <td className="reading py-1 text-right whitespace-nowrap">{r.charge.cost.toFixed(4)} {r.charge.currency}</td>
                <td className="py-1 text-right whitespace-nowrap">
                  <span className="reading">{r.charge.year_cost.toFixed(2)} {r.charge.currency}</span>
                  <span className="soft text-xs"> {r.charge.year_kwh.toFixed(1)} kWh</span>
                </td>
              </>
            ) : (
              <td colSpan={6} className="soft py-1 text-right text-xs">
                not metered, or fed by a pack
              </td>
            )}
          </tr>
        ))}
      </tbody>
    </Wide>
  )
}

function Wh({ value, bold = false, note = '' }: { value: Shape['MeasuredDocument']; bold?: boolean; note?: string }) {
  return (
    <td className="py-1 text-right whitespace-nowrap">
      <span className={`reading ${bold ? 'font-semibold' : ''}`}>{value.value.toFixed(1)} Wh</span>
      {value.expanded !== null && <span className="soft text-xs"> ± {value.expanded.toFixed(1)}</span>}
      {note && <span className="soft block text-xs">{note}</span>}
    </td>
  )
}

const WIDE = 520
const HIGH = 232
const EDGE = { left: 44, right: 16, top: 10, bottom: 30 }
const LABEL_PX = 13
const LINE_PX = 9
const MARK_PX = 11

interface ScatterProps {
  title: string
  rows: Row[]
  value: (row: Row) => number | null
  text: (row: Row) => string
  fill?: (row: Row) => string | undefined
  unit: string
  empty: string
}

/** Time across, something else up; each mark has its name beside it, and a line as long as its interval. */
function Scatter({ title, rows, value, text, fill, unit, empty }: ScatterProps) {
  const known = rows.flatMap((row) => {
    const up = value(row)
    return up === null || !row.minutes ? [] : [{ row, up, minutes: row.minutes, name: begun(row.label) }]
  })
  if (known.length < 2)
    return (
      <figure>
        <figcaption className="soft text-xs">{title}</figcaption>
        <p className="mt-2 text-sm">{empty}</p>
      </figure>
    )
  const ups = known.map((k) => k.up)
  const pad = Math.max(1, (Math.max(...ups) - Math.min(...ups)) * 0.12)
  const x = scaleLinear([0, Math.max(...known.map((k) => k.minutes.latest)) * 1.05], [EDGE.left, WIDE - EDGE.right]).nice()
  const y = scaleLinear([Math.min(...ups) - pad, Math.max(...ups) + pad], [HIGH - EDGE.bottom, EDGE.top])
  const names = placed(known.map((k) => ({ x: x(k.minutes.estimate), y: y(k.up), name: k.name, from: x(k.minutes.earliest), to: x(k.minutes.latest) })))
  return (
    <figure>
      <figcaption className="soft text-xs">{title}</figcaption>
      <svg viewBox={`0 0 ${String(WIDE)} ${String(HIGH)}`} className="w-full" role="img" aria-label={`${title}: ${known.map((k) => `${k.name} ${k.minutes.estimate.toFixed(0)} min, ${text(k.row)}`).join('; ')}`}>
        {x.ticks(6).map((t) => (
          <g key={t}>
            <line x1={x(t)} x2={x(t)} y1={EDGE.top} y2={HIGH - EDGE.bottom} className="stroke-base-300" />
            <text x={x(t)} y={HIGH - EDGE.bottom + 14} textAnchor="middle" className="fill-secondary text-[11px]">
              {t}
              {t === 0 ? ' min' : ''}
            </text>
          </g>
        ))}
        {y.ticks(5).map((t, i, all) => (
          <g key={t}>
            <line x1={EDGE.left} x2={WIDE - EDGE.right} y1={y(t)} y2={y(t)} className="stroke-base-300" />
            <text x={EDGE.left - 6} y={y(t) + 4} textAnchor="end" className="fill-secondary text-[11px]">
              {t}
            </text>
            {i === all.length - 1 && (
              <text x={EDGE.left - 6} y={y(t) + 16} textAnchor="end" className="fill-secondary text-[11px]">
                {unit}
              </text>
            )}
          </g>
        ))}
        {known.map((k) => (
          <g key={k.name}>
            <line x1={x(k.minutes.earliest)} x2={x(k.minutes.latest)} y1={y(k.up)} y2={y(k.up)} className="stroke-base-content" strokeWidth="1.2" />
            <circle cx={x(k.minutes.estimate)} cy={y(k.up)} r="5" fill={fill?.(k.row)} className={`stroke-base-content ${fill ? '' : 'fill-base-content'}`} strokeWidth="1.2">
              <title>{`${k.name}: ${k.minutes.estimate.toFixed(0)} min, ${text(k.row)}`}</title>
            </circle>
          </g>
        ))}
        {known.map((k, i) => (
          <text key={k.name} x={names[i]?.x} y={names[i]?.y} textAnchor={names[i]?.anchor} className="fill-base-content stroke-base-100 text-[11px]" strokeWidth="3" paintOrder="stroke">
            {k.name.length > 30 ? `${k.name.slice(0, 29)}…` : k.name}
          </text>
        ))}
      </svg>
    </figure>
  )
}

interface Name {
  x: number
  y: number
  anchor: 'start' | 'end'
}

/** Where names stand: beside their marks where no other name, mark or line is in the way; else further down. */
function placed(marks: { x: number; y: number; name: string; from: number; to: number }[]): Name[] {
  const names: { from: number; to: number; y: number }[] = []
  const found: Name[] = []
  const order = marks.map((_, i) => i).sort((a, b) => (marks[a]?.y ?? 0) - (marks[b]?.y ?? 0))
  for (const i of order) {
    const mark = marks[i]
    if (!mark) continue
    const long = Math.min(30, mark.name.length) * 5.6
    const others = marks.filter((_, k) => k !== i)
    const free = (from: number, y: number) => {
      const over = (low: number, high: number) => low < from + long && from < high
      return (
        from > EDGE.left &&
        from + long < WIDE - 4 &&
        !names.some((n) => Math.abs(n.y - y) < LABEL_PX && over(n.from, n.to)) &&
        !others.some((o) => (Math.abs(o.y + 4 - y) < LINE_PX && over(o.from, o.to)) || (Math.abs(o.y + 4 - y) < MARK_PX && over(o.x - 7, o.x + 7)))
      )
    }
    const right = mark.x + 9
    const left = mark.x - 9 - long
    const beside = [0, LABEL_PX, 2 * LABEL_PX].map((down) => mark.y + 14 + down)
    const places = [mark.y - 5, ...beside].flatMap((y) => [right, left].map((from) => ({ from, y })))
    const { from, y } = places.find((p) => free(p.from, p.y)) ?? { from: right + long < WIDE - 4 ? right : left, y: mark.y - 5 }
    names.push({ from, to: from + long, y })
    found[i] = from === left ? { x: mark.x - 9, y, anchor: 'end' } : { x: from, y, anchor: 'start' }
  }
  return found
}
