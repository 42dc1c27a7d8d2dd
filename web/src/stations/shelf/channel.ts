import type { Chain } from '../../api/useChain'

export type Link = Chain['links'][number]

/** A link as it is drawn: where it stands, how far its walls are apart and how wide the stream is, in pixels. */
export interface Gate {
  link: Link
  left: number
  right: number
  wall: number
  stream: number
  /** The walls stand further apart than the drawing is high. */
  open: boolean
}

const WALLS_SHARE = 0.6
/** Walls further apart than this many times the stream are drawn at the edge, and open. */
const MOST_TIMES = 2.2

/** The links of a chain as gates side by side; all walls on the meter side's scale. */
export function gates(links: Link[], width: number, height: number): Gate[] {
  const flow = Math.max(0.1, ...links.map((l) => l.flows_w))
  const perWatt = height / (flow * MOST_TIMES)
  const column = width / links.length
  return links.map((link, i) => ({
    link,
    left: i * column + (column * (1 - WALLS_SHARE)) / 2,
    right: i * column + (column * (1 + WALLS_SHARE)) / 2,
    wall: Math.min(height, link.passes_w * perWatt),
    stream: Math.max(1, link.flows_w * perWatt),
    open: link.passes_w * perWatt > height,
  }))
}

/** The outline of the stream through all gates: straight within a gate, leaning between two. */
export function streamPath(all: Gate[], middle: number, width: number): string {
  const first = all[0]
  const last = all[all.length - 1]
  if (!first || !last) return ''
  const points = [
    [0, first.stream],
    ...all.flatMap((g) => [
      [g.left, g.stream],
      [g.right, g.stream],
    ]),
    [width, last.stream],
  ] as [number, number][]
  const above = points.map(([x, size]) => `${x.toFixed(1)},${(middle - size / 2).toFixed(1)}`)
  const below = points.reverse().map(([x, size]) => `${x.toFixed(1)},${(middle + size / 2).toFixed(1)}`)
  return `M${above.join('L')}L${below.join('L')}Z`
}
