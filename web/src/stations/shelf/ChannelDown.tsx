import type { ReactNode } from 'react'
import type { Chain } from '../../api/useChain'
import { gates } from './channel'

const WIDE = 116
const TALL = 100
const MIDDLE = WIDE / 2
/** Where the stream of a link begins to lean towards the next one's, of 100. */
const LEANS = 80
const WALLS: [number, number] = [14, 72]

interface Props {
  chain: Chain
  under: (link: Chain['links'][number]['link']) => ReactNode
}

const watts = (w: number) => `${w.toFixed(1)} W`

/** The chain as a channel that runs downwards, on a narrow screen: beside each link its piece, what it could pass, and why. */
export function ChannelDown({ chain, under }: Props) {
  const all = gates(chain.links, WIDE, WIDE)
  return (
    <ol aria-label="the chain, from the adapter to the battery">
      {all.map((g, i) => {
        const narrowest = g.link.link === chain.narrowest
        const next = all[i + 1] ?? g
        const [left, right] = [MIDDLE - g.wall / 2, MIDDLE + g.wall / 2]
        const [from, to] = [g.stream / 2, next.stream / 2]
        const stream = `M${String(MIDDLE - from)},0V${String(LEANS)}L${String(MIDDLE - to)},${String(TALL)}H${String(MIDDLE + to)}L${String(MIDDLE + from)},${String(LEANS)}V0Z`
        return (
          <li key={g.link.link} className="grid min-h-24 gap-x-3" style={{ gridTemplateColumns: `${String(WIDE)}px minmax(0, 1fr)` }}>
            <div className="relative">
              <svg className="absolute inset-x-0 top-0 h-[calc(100%+1px)] w-full" viewBox={`0 0 ${String(WIDE)} ${String(TALL)}`} preserveAspectRatio="none" aria-hidden="true">
                <path d={stream} fill="var(--color-primary)" />
                {[left, right].map((x) => (
                  <line
                    key={x}
                    x1={x}
                    x2={x}
                    y1={WALLS[0]}
                    y2={WALLS[1]}
                    stroke="var(--color-base-content)"
                    strokeWidth={narrowest ? 4 : 1.5}
                    strokeDasharray={g.open ? '2 5' : undefined}
                    vectorEffect="non-scaling-stroke"
                  />
                ))}
              </svg>
              <span
                className="reading absolute inset-x-0 top-[43%] -translate-y-1/2 text-center text-[13px] font-medium"
                style={g.stream > 40 ? { color: 'var(--color-primary-content)' } : undefined}
              >
                {watts(g.link.flows_w)}
              </span>
            </div>
            <div className="min-w-0 py-1.5 text-sm leading-tight">
              {under(g.link.link)}
              <p className="soft mt-1">
                could pass {watts(g.link.watts)}
                {narrowest && <b className="text-base-content"> · narrowest</b>}
              </p>
              <p className={narrowest ? 'font-semibold' : 'soft'}>{g.link.why}</p>
            </div>
          </li>
        )
      })}
    </ol>
  )
}
