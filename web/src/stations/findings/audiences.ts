import type { Shape } from '../../api/client'

export type Audience = NonNullable<Shape['Asked']['audience']>

/** For whom a finding is written. */
export const AUDIENCES: { key: Audience; name: string }[] = [
  { key: 'buyer', name: 'a buyer' },
  { key: 'association', name: 'an association' },
  { key: 'engineer', name: 'an engineer' },
]
