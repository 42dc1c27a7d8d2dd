import { useEffect, useRef } from 'react'
import uPlot from 'uplot'
import { clock } from '../ui/format'
import type { Theme } from '../ui/settings'

export const AXIS_PX = 44
export const RIGHT_PX = 10
const FONT = '11px "Sofia Sans Variable", sans-serif'

export interface Curve {
  minute: number[]
  value: (number | null)[]
  stroke?: (u: uPlot) => string | CanvasGradient
  dots?: boolean
  width?: number
}

export interface Mark {
  value: number
  text: string
  below?: boolean
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
  lit?: [number, number] | null
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
    const made = new uPlot(
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
            width: c.width ?? 1.4,
            spanGaps: tables.length > 1,
            pxAlign: 0,
            points: c.dots ? { show: true, size: 6, width: 1.4, fill: theme === 'night' ? '#15171c' : '#faf8f1' } : { show: false },
          })),
        ],
        cursor: { y: false, drag: { x: true, y: false, setScale: false }, points: { size: 7, fill: ink, stroke: ink } },
        hooks: {
          drawClear: [
            (u) => {
              drawStretch(u, latest.current, ink)
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
    plot.current = made
    return () => {
      made.destroy()
      plot.current = null
    }
  }, [curves, width, height, theme, limits, withTime])

  useEffect(() => {
    plot.current?.redraw(false)
  }, [props.lit, props.marks, props.bars])

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

function drawStretch(u: uPlot, props: Props, ink: string) {
  if (!props.lit) return
  const { left, top, width, height } = u.bbox
  const from = Math.max(left, u.valToPos(props.lit[0], 'x', true))
  const to = Math.min(left + width, Math.max(from + 2, u.valToPos(props.lit[1], 'x', true)))
  u.ctx.save()
  u.ctx.globalAlpha = 0.1
  u.ctx.fillStyle = ink
  if (to > from) u.ctx.fillRect(from, top, to - from, height)
  u.ctx.restore()
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
    u.ctx.textAlign = 'right'
    u.ctx.fillText(mark.text, left + width - 4 * ratio, y + (mark.below ? 12 : -3) * ratio)
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
