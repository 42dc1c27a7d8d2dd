import type { Shape } from '../api/client'
import { useWidth } from '../ui/useWidth'

type Stage = Shape['Stage']

const WIDE = 132
const LEAST_WIDE = 80
const HIGH = 56
const EASE = 34
const SMALL_EASE = 16

const drawn = (stage: Stage) => stage.stand === 'measured' || stage.stand === 'printed'

function said(stage: Stage): string {
  if (stage.wh === null) return `${stage.words}: not known`
  const range = stage.low !== null && stage.high !== null && stage.stand === 'estimated' ? `, ${stage.low.toFixed(1)} to ${stage.high.toFixed(1)}` : ''
  return `${stage.words} ${stage.at_least ? 'at least ' : ''}${stage.wh.toFixed(1)} Wh, ${stage.stand}${range}`
}

/** The walk of energy: from what is printed on a pack to what lies in the phone; measured stages filled, estimated ones broken. */
export function Walk({ stages, name }: { stages: Stage[]; name: string }) {
  const [box, room] = useWidth()
  const wide = Math.max(LEAST_WIDE, Math.min(WIDE, room / Math.max(1, stages.length)))
  const ease = wide < WIDE ? SMALL_EASE : EASE
  const rated = stages[0]?.wh ?? 1
  const top = (stage: Stage) => HIGH - HIGH * Math.min(1, (stage.wh ?? 0) / rated)
  return (
    <div ref={box} className="min-w-0">
    <svg
      role="img"
      aria-label={`energy of ${name}: ${stages.map(said).join('; ')}`}
      width={wide * stages.length}
      height={HIGH + 16}
      className="block"
    >
      {stages.map((stage, i) => {
        if (stage.wh === null)
          return (
            <text key={stage.key} x={i * wide + 6} y={HIGH - 6} className="fill-current text-xs" opacity={0.7}>
              not known
            </text>
          )
        const before = stages.slice(0, i).findLast((s) => s.wh !== null)
        const from = before ? top(before) : top(stage)
        const [x, y] = [i * wide, top(stage)]
        const edge = `M ${String(x)} ${String(from)} C ${String(x + ease * 0.55)} ${String(from)} ${String(x + ease * 0.45)} ${String(y)} ${String(x + ease)} ${String(y)} H ${String(x + wide)}`
        return (
          <g key={stage.key}>
            <path d={`${edge} V ${String(HIGH)} H ${String(x)} Z`} className="fill-primary" opacity={drawn(stage) ? 1 : 0.28} />
            <path d={edge} fill="none" className="stroke-current" strokeWidth={1.4} strokeDasharray={drawn(stage) ? undefined : '4 3'} />
            <text x={x + ease + 4} y={HIGH + 13} className="soft fill-current text-[11px]">
              {stage.words}
            </text>
            {i > 0 && <path d={`M ${String(x)} ${String(HIGH)} V ${String(from)}`} className="stroke-base-100" strokeWidth={1} />}
            <text x={x + ease + 4} y={HIGH - 6} className={`reading text-sm ${drawn(stage) ? 'fill-primary-content' : 'fill-current'}`}>
              {stage.at_least ? 'at least ' : ''}
              {stage.wh.toFixed(1)}
            </text>
          </g>
        )
      })}
      <path d={`M 0 ${String(HIGH + 0.5)} H ${String(wide * stages.length)}`} className="stroke-current" strokeWidth={1} />
    </svg>
    </div>
  )
}
