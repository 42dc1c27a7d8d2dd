import type { ReactNode } from 'react'
import type { Chain } from '../../api/useChain'
import { useWidth } from '../../ui/useWidth'
import { gates, streamPath } from './channel'

const HEIGHT = 76
const ABOVE = 24

interface Props {
  chain: Chain
  /** What stands under each link: the piece that is chosen there. */
  under: (link: Chain['links'][number]['link']) => ReactNode
}

const watts = (w: number) => `${w.toFixed(1)} W`

/** The chain as a channel: each link a pair of walls as far apart as the watts it lets pass, the stream what flows. */
export function Channel({ chain, under }: Props) {
  const [box, width] = useWidth()
  const all = gates(chain.links, width, HEIGHT)
  const middle = ABOVE + HEIGHT / 2
  const columns = { gridTemplateColumns: `repeat(${String(chain.links.length)}, minmax(0, 1fr))` }
  return (
    <div ref={box}>
      {width > 0 && (
        <svg width={width} height={HEIGHT + ABOVE + 6} role="img" aria-label={said(chain)} className="block">
          <path d={streamPath(all, middle, width)} fill="var(--color-primary)" />
          {all.map((g) => {
            const narrow = g.link.link === chain.narrowest
            const top = middle - g.wall / 2
            const bottom = middle + g.wall / 2
            const stroke = narrow ? 4 : 1.5
            return (
              <g key={g.link.link} stroke="var(--color-base-content)" strokeWidth={stroke}>
                <line x1={g.left} x2={g.right} y1={top} y2={top} strokeDasharray={g.open ? '2 5' : undefined} />
                <line x1={g.left} x2={g.right} y1={bottom} y2={bottom} strokeDasharray={g.open ? '2 5' : undefined} />
                {narrow && (
                  <>
                    <line x1={(g.left + g.right) / 2} x2={(g.left + g.right) / 2} y1={15} y2={top - 4} strokeWidth={1} />
                    <text
                      x={(g.left + g.right) / 2}
                      y={11}
                      textAnchor="middle"
                      stroke="none"
                      className="fill-base-content text-xs font-semibold"
                    >
                      narrowest
                    </text>
                  </>
                )}
                <text
                  x={(g.left + g.right) / 2}
                  y={middle + 5}
                  textAnchor="middle"
                  stroke="none"
                  className="reading fill-base-content text-[15px] font-medium"
                  style={g.stream > 18 ? { fill: 'var(--color-primary-content)' } : { paintOrder: 'stroke' }}
                >
                  {watts(g.link.flows_w)}
                </text>
              </g>
            )
          })}
        </svg>
      )}
      <ol className="grid" style={columns}>
        {chain.links.map((link) => (
          <li key={link.link} className="min-w-0 px-1 text-center text-xs leading-tight">
            {under(link.link)}
            <p className="soft mt-0.5">could pass {watts(link.watts)}</p>
            <p className={link.link === chain.narrowest ? 'font-semibold' : 'soft'}>{link.why}</p>
          </li>
        ))}
      </ol>
    </div>
  )
}

function said(chain: Chain): string {
  const links = chain.links.map((l) => `${l.link} could pass ${watts(l.watts)}, ${watts(l.flows_w)} flow`)
  return `${links.join('; ')}; narrowest: ${chain.narrowest}`
}
