import type { Shape } from '../../api/client'
import type { ChainChoice } from '../../api/useChain'
import type { Kit } from '../../api/useKit'
import { piecesFor, type Slot } from '../../shared/pieces'

/** Changes what the address says is chosen. */
export type Choose = (changes: Record<string, string | null>) => void
export type Around = Required<Shape['Around']>

export const AIRFLOWS = ['still air', 'fan on the phone', "charger's own fan"] as const
export const STATES = ['off', 'idle', 'in use'] as const
const NONE = '-'
const number = (text: string | null, otherwise: number) => {
  const found = Number(text)
  return text === null || text === '' || Number.isNaN(found) ? otherwise : found
}

const one = <T extends string>(text: string | null, known: readonly T[], otherwise: T): T =>
  known.find((k) => k === text) ?? otherwise

/** What surrounds the runs that are forecast, as the address says it. */
export function aroundFrom(query: URLSearchParams): Around {
  return {
    start_percent: Math.min(99, Math.max(0, number(query.get('start'), 10))),
    ambient_c: Math.min(50, Math.max(-10, number(query.get('room'), 25))),
    airflow: one(query.get('air'), AIRFLOWS, 'still air'),
    phone_state: one(query.get('state'), STATES, 'idle'),
    offset_mm: Math.min(30, Math.max(0, number(query.get('offset'), 0))),
    hold_percent: null,
    interval_min: 10,
  }
}

/** The chain that the address names; the first of each kind where it names none; null while there is no phone. */
export function choiceFrom(query: URLSearchParams, kit: Kit[]): ChainChoice | null {
  const piece = (slot: Slot, needed: boolean) => {
    const wanted = query.get(slot)
    const known = piecesFor(kit, slot)
    if (wanted === NONE) return null
    return known.find((k) => k.id === wanted)?.id ?? (needed ? (known[0]?.id ?? null) : null)
  }
  const phone = piece('phone', true)
  if (!phone) return null
  const charger = piece('charger', true)
  const places = kit.find((k) => k.id === charger)?.places ?? ['']
  return {
    phone,
    charger,
    place: places.find((p) => p === query.get('place')) ?? places[0] ?? '',
    adapter: piece('adapter', false),
    best_adapter: !query.has('adapter'),
    cable: piece('cable', true),
    case: piece('case', false),
    phones_on_charger: Math.min(10, Math.max(1, number(query.get('phones'), 1))),
    chargers_on_adapter: Math.min(10, Math.max(1, number(query.get('chargers'), 1))),
    around: aroundFrom(query),
  }
}

export { NONE }
