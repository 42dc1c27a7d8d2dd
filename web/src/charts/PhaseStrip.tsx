import type { Shape } from '../api/client'
import { duration } from '../ui/format'
import { AXIS_PX, RIGHT_PX } from './TimeChart'

type Phase = Shape['PhaseShape']

export const PHASE_WORDS: Record<Phase['kind'], string> = {
  no_load: 'no-load',
  wake: 'wake',
  ramp: 'ramp',
  plateau: 'plateau',
  taper: 'taper',
  trickle: 'trickle',
  hold: 'hold',
  full: 'full',
}

/** The key that chooses a phase. */
export const phaseKey = (index: number) => `phase-${String(index)}`

const LETTER_PX = 6.4
const PAD_PX = 8

interface Props {
  phases: Phase[]
  range: [number, number]
  width: number
  onPhase: (key: string) => void
}

/** The phases of a run on the time axis of its charts; one can be chosen. */
export function PhaseStrip({ phases, range, width, onPhase }: Props) {
  const room = Math.max(1, width - AXIS_PX - RIGHT_PX)
  const x = (minute: number) => ((minute - range[0]) / (range[1] - range[0])) * room
  return (
    <div className="relative h-[18px]" style={{ marginLeft: AXIS_PX, width: room }} role="group" aria-label="phases">
      {phases.map((p, i) => {
        const [from, to] = [Math.max(0, x(p.start)), Math.min(room, x(p.end))]
        if (to - from < 1) return null
        const word = PHASE_WORDS[p.kind]
        const fits = to - from > word.length * LETTER_PX + PAD_PX
        return (
          <button
            key={i}
            className="border-base-content hover:bg-accent reach absolute inset-y-0 cursor-pointer border-l px-1 text-left text-[11px] leading-[18px] whitespace-nowrap"
            style={{ left: from, width: to - from }}
            title={`${word}: ${duration(p.start)} to ${duration(p.end)}, ${p.mean_w.toFixed(1)} W on average${p.overruled ? ` · ${p.overruled}` : ''}`}
            aria-label={`${word}, ${duration(p.start)} to ${duration(p.end)}`}
            onClick={() => {
              onPhase(phaseKey(i))
            }}
          >
            {fits && (
              <span className="block overflow-hidden">
                {word}
                {p.overruled && ' *'}
              </span>
            )}
          </button>
        )
      })}
    </div>
  )
}
