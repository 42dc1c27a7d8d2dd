import { useEffect, useRef } from 'react'
import uPlot from 'uplot'
import { clock } from '../ui/format'
import type { Theme } from '../reader/settings'

export const AXIS_PX = 44
export const RIGHT_PX = 10
const FONT = '11px "Sofia Sans Variable", sans-serif'

export interface Curve {
  minute: number[]
  value: (number | null)[]
  stroke?: (u: uPlot) => string | CanvasGradient
  dots?: boolean
  /** Only its dots, joined by nothing. */
  loose?: boolean
  dashed?: boolean
  width?: number
}

export interface Mark {
  value: number
  text: string
  below?: boolean
  /** Its name stands at the left, where others are at the right. */
  atLeft?: boolean
}

interface Props {
  name: string
  title: string
  curves: Curve[]
  /** Fixed limits of the vertical scale, so that a zoom does not blow up noise. */
  limits: [number, number]
  range: [number, number]
  height: number
  width: number
  theme: Theme
  marks?: Mark[]
  /** Intervals drawn as bars at a height: from, to, value. */
  bars?: [number, number, number][]
  /** Stretches to hatch: dips by heat one way, others the other way, fainter. */
  hatched?: { from: number; to: number; heat: boolean }[]
  lit?: [number, number][]
  cursor: number | null
  withTime?: boolean
  onCursor: (minute: number | null) => void
  onRange: (range: [number, number] | null) => void
}

function inks(theme: Theme) {
  return theme === 'night'
    ? { ink: '#ece8dc', soft: '#aeb3bf', line: '#2c313b' }
    : { ink: '#1c1f26', soft: '#555b6a', line: '#e6e1d2' }
}

/** A curve over the minutes of a run; charts that stand above each other share cursor and range. */
export function TimeChart(props: Props) {
  const host = useRef<HTMLDivElement>(null)
  const plot = useRef<uPlot | null>(null)
  const latest = useRef(props)
  useEffect(() => {
    latest.current = props
  })
  const { curves, width, height, theme, limits, withTime, title } = props

  useEffect(() => {
    if (!host.current) return
    const { ink, soft, line } = inks(theme)
    const tables = curves.map((c) => [c.minute, c.value] as uPlot.AlignedData)
    const joined = tables.length === 1 && tables[0] ? tables[0] : uPlot.join(tables, tables.map(() => [2]))
    const axis = { stroke: soft, font: FONT, grid: { stroke: line, width: 1 }, ticks: { show: false } }
    const drawn = new uPlot(
      {
        width,
        height,
        padding: [6, RIGHT_PX, withTime ? 0 : 6, 0],
        legend: { show: false },
        scales: { x: { time: false, range: () => latest.current.range }, y: { range: () => limits } },
        axes: [
          {
            ...axis,
            show: true,
            size: withTime ? 26 : 0,
            values: (_, splits) => (withTime ? splits.map(clock) : splits.map(() => '')),
            incrs: [1, 2, 5, 10, 15, 30, 60, 120, 240],
            space: 70,
          },
          { ...axis, size: AXIS_PX, gap: 6, space: 26 },
        ],
        series: [
          {},
          ...curves.map((c) => ({
            stroke: c.stroke ?? ink,
            dash: c.dashed ? [6, 4] : undefined,
            width: c.width ?? 1.4,
            paths: c.loose ? () => null : undefined,
            spanGaps: tables.length > 1,
            pxAlign: 0,
            points: c.dots ? { show: true, size: 6, width: 1.4, fill: theme === 'night' ? '#15171c' : '#faf8f1' } : { show: false },
          })),
        ],
        cursor: { y: false, drag: { x: true, y: false, setScale: false }, points: { size: 7, fill: ink, stroke: ink } },
        hooks: {
          drawClear: [
            (u) => {
              drawStretches(u, latest.current, ink)
            },
          ],
          draw: [
            (u) => {
              drawMarks(u, latest.current, ink, soft)
            },
          ],
          setCursor: [
            (u) => {
              const left = u.cursor.left ?? -1
              // Only a pointer over this chart speaks; a cursor set from outside listens.
              if (!host.current?.matches(':hover')) return
              latest.current.onCursor(left < 0 ? null : u.posToVal(left, 'x'))
            },
          ],
          setSelect: [
            (u) => {
              if (u.select.width < 4) return
              const chosen: [number, number] = [u.posToVal(u.select.left, 'x'), u.posToVal(u.select.left + u.select.width, 'x')]
              u.setSelect({ left: 0, top: 0, width: 0, height: 0 }, false)
              latest.current.onRange(chosen)
            },
          ],
        },
      },
      joined,
      host.current,
    )
    plot.current = drawn
    return () => {
      drawn.destroy()
      plot.current = null
    }
  }, [curves, width, height, theme, limits, withTime])

  useEffect(() => {
    plot.current?.redraw(false)
  }, [props.lit, props.marks, props.bars, props.hatched])

  useEffect(() => {
    const u = plot.current
    if (!u) return
    u.setScale('x', { min: props.range[0], max: props.range[1] })
  }, [props.range])

  useEffect(() => {
    const u = plot.current
    if (!u || host.current?.matches(':hover')) return
    u.setCursor({ left: props.cursor === null ? -10 : u.valToPos(props.cursor, 'x'), top: 0 }, false)
  }, [props.cursor])

  return (
    <figure
      onMouseLeave={() => {
        props.onCursor(null)
      }}
      onDoubleClick={() => {
        props.onRange(null)
      }}
    >
      <figcaption className="soft pr-3 text-right text-xs leading-4">{title}</figcaption>
      <div ref={host} role="img" aria-label={`${props.name} over time`} />
    </figure>
  )
}

const HATCH_PX = 7

function drawStretches(u: uPlot, props: Props, ink: string) {
  const { left, top, width, height } = u.bbox
  const ctx = u.ctx
  const edges = (from: number, to: number): [number, number] => {
    const a = Math.max(left, u.valToPos(from, 'x', true))
    return [a, Math.min(left + width, Math.max(a + 2, u.valToPos(to, 'x', true)))]
  }
  ctx.save()
  ctx.fillStyle = ctx.strokeStyle = ink
  ctx.globalAlpha = 0.1
  for (const [from, to] of props.lit ?? []) {
    const [a, b] = edges(from, to)
    if (b > a) ctx.fillRect(a, top, b - a, height)
  }
  ctx.lineWidth = devicePixelRatio
  for (const { from, to, heat } of props.hatched ?? []) {
    const [a, b] = edges(from, to)
    if (b <= a) continue
    ctx.save()
    ctx.globalAlpha = heat ? 0.42 : 0.2
    ctx.beginPath()
    ctx.rect(a, top, b - a, height)
    ctx.clip()
    ctx.beginPath()
    const step = HATCH_PX * devicePixelRatio
    for (let x = a - height - ((a - left) % step); x < b + height; x += step) {
      ctx.moveTo(x, heat ? top + height : top)
      ctx.lineTo(x + height, heat ? top : top + height)
    }
    ctx.stroke()
    ctx.restore()
  }
  ctx.restore()
}

function drawMarks(u: uPlot, props: Props, ink: string, soft: string) {
  const { left, top, width, height } = u.bbox
  const ratio = devicePixelRatio
  u.ctx.save()
  u.ctx.beginPath()
  u.ctx.rect(left, top, width, height)
  u.ctx.clip()
  u.ctx.lineWidth = ratio
  u.ctx.textBaseline = 'alphabetic'
  u.ctx.font = `${String(11 * ratio)}px "Sofia Sans Variable", sans-serif`
  for (const mark of props.marks ?? []) {
    const y = u.valToPos(mark.value, 'y', true)
    u.ctx.strokeStyle = u.ctx.fillStyle = soft
    u.ctx.setLineDash([5 * ratio, 4 * ratio])
    u.ctx.beginPath()
    u.ctx.moveTo(left, y)
    u.ctx.lineTo(left + width, y)
    u.ctx.stroke()
    u.ctx.textAlign = mark.atLeft ? 'left' : 'right'
    u.ctx.fillText(mark.text, mark.atLeft ? left + 4 * ratio : left + width - 4 * ratio, y + (mark.below ? 12 : -3) * ratio)
  }
  u.ctx.setLineDash([])
  u.ctx.strokeStyle = ink
  u.ctx.lineWidth = 2 * ratio
  for (const [from, to, value] of props.bars ?? []) {
    const [a, b, y] = [u.valToPos(from, 'x', true), u.valToPos(to, 'x', true), u.valToPos(value, 'y', true)]
    u.ctx.beginPath()
    for (const x of [a, b]) {
      u.ctx.moveTo(x, y - 4 * ratio)
      u.ctx.lineTo(x, y + 4 * ratio)
    }
    u.ctx.moveTo(a, y)
    u.ctx.lineTo(b, y)
    u.ctx.stroke()
  }
  u.ctx.restore()
}
