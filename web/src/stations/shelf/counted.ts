import type { Kit, KitKind } from '../../api/useKit'

export const PLURALS: Record<KitKind, string> = {
  phone: 'phones',
  charger: 'chargers',
  adapter: 'adapters',
  cable: 'cables',
  pack: 'packs',
  meter: 'meters',
  probe: 'probes',
  case: 'cases',
}
export const KINDS = Object.keys(PLURALS) as KitKind[]

/** What is on the shelf, in numbers: 5 phones · 6 chargers. */
export const counted = (kit: Kit[]) =>
  KINDS.map((kind) => [kind, kit.filter((k) => k.kind === kind).length] as const)
    .filter(([, n]) => n > 0)
    .map(([kind, n]) => `${String(n)} ${n === 1 ? kind : PLURALS[kind]}`)
    .join(' · ')
