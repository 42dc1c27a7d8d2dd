import type { Kit, KitKind } from '../api/useKit'

export type Slot = 'phone' | 'charger' | 'adapter' | 'cable' | 'case'

const SLOTS: Record<Slot, KitKind[]> = {
  phone: ['phone'],
  charger: ['charger', 'pack', 'phone'],
  adapter: ['adapter'],
  cable: ['cable'],
  case: ['case'],
}

/** The pieces that can stand in a slot of the chain. */
export const piecesFor = (kit: Kit[], slot: Slot) =>
  kit.filter((k) => SLOTS[slot].includes(k.kind) && (slot !== 'charger' || k.wireless))
