import type { Shape } from '../api/client'

/** The battery's level at a minute, by its curve; null where no check-ins reach. */
export function levelAt({ minute: at, percent }: Shape['CurveShape'], minute: number): number | null {
  const i = at.findIndex((m) => m >= minute)
  if (i < 0) return null
  const [a, b, p, q] = [at[i - 1], at[i], percent[i - 1], percent[i]]
  if (i === 0) return b === minute ? (q ?? null) : null
  if (a === undefined || b === undefined || p === undefined || p === null || q === undefined || q === null) return q ?? null
  return p + ((q - p) * (minute - a)) / (b - a)
}
