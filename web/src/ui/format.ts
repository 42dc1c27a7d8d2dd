import type { Degrees } from '../reader/settings'

/** A duration in minutes as people say it: 1 h 39, 12 min. */
export function duration(minutes: number): string {
  const whole = Math.round(minutes)
  if (Math.abs(whole) < 60) return `${whole < 0 ? '−' : ''}${String(Math.abs(whole))} min`
  return `${String(Math.floor(whole / 60))} h ${String(whole % 60).padStart(2, '0')}`
}

/** A moment of a run for an axis: 0:00, 1:30. */
export function clock(minutes: number): string {
  const whole = Math.round(minutes)
  const sign = whole < 0 ? '−' : ''
  const size = Math.abs(whole)
  return `${sign}${String(Math.floor(size / 60))}:${String(size % 60).padStart(2, '0')}`
}

export const inDegrees = (celsius: number, degrees: Degrees) => (degrees === 'F' ? celsius * 1.8 + 32 : celsius)

export const inCelsius = (typed: number, degrees: Degrees) => (degrees === 'F' ? (typed - 32) / 1.8 : typed)

/** A temperature without its unit, one decimal. */
export const degreesText = (celsius: number, degrees: Degrees) => inDegrees(celsius, degrees).toFixed(1)

/** A share as whole percent: 40 %. */
export const percent = (share: number) => `${String(Math.round(share * 100))} %`

export function bytes(size: number): string {
  if (size < 1000) return `${String(size)} B`
  if (size < 1_000_000) return `${(size / 1000).toFixed(0)} kB`
  return `${(size / 1_000_000).toFixed(1)} MB`
}
