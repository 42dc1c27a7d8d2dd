import type { Shape } from '../../api/client'

type Cause = Shape['DipShape']['cause']

/** How a cause is said. */
export const CAUSE_WORDS: Record<Cause | 'no dip', string> = {
  heat: 'heat',
  heat_cutout: 'stop by heat',
  hold: 'charge limit',
  contact: 'contact lost',
  restart: 'started over',
  supply: 'supply',
  unexplained: 'not explained',
  'no dip': 'no dip',
}

/** What a reader can say that a dip was, in the order of a list. */
export const CAUSES = Object.keys(CAUSE_WORDS) as (Cause | 'no dip')[]

/** The key that chooses a dip. */
export const dipKey = (index: number) => `dip-${String(index)}`
