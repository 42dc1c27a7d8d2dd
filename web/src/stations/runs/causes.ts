import { CAUSES, NO_DIP } from '../../api/rules'

type Cause = keyof typeof CAUSES

/** How a cause is said. */
export const causeSaid = (cause: Cause | typeof NO_DIP) => (cause === NO_DIP ? cause : CAUSES[cause].words)

/** What a reader can say that a dip was, in the order of a list. */
export const CHOICES = [...(Object.keys(CAUSES) as Cause[]), NO_DIP]

/** The key that chooses a dip. */
export const dipKey = (index: number) => `dip-${String(index)}`
