import type { Degrees } from './settings'

// A hyphen behind a figure stands between two, it is no sign.
const FIGURE = '(?<!\\d)[-−]?\\d+(?:\\.\\d+)?'
const CELSIUS = new RegExp(`(?:(${FIGURE})( to | and | or |–|-))?(${FIGURE}) °C(?![\\w/])`, 'g')
const KELVIN = new RegExp(`(?:(${FIGURE})( to | and | or |–|-))?(${FIGURE}) K(?![\\w/])`, 'g')

/** What people typed, and what is sent back as it came: never rewritten. */
const TYPED = new Set(['name', 'question', 'note', 'title', 'choice', 'levels', 'factors', 'card', 'facts', 'first_rows', 'line'])
/** Notes of people are records; those of the application are lines. */
const byPeople = (key: string, value: unknown) => TYPED.has(key) || (key === 'notes' && Array.isArray(value) && typeof value[0] === 'object')
/** What names both units already. */
const BOTH = new Set(['doubts', 'instead', 'mend', 'echo'])

function turned(written: string, by: (figure: number) => number): string {
  const decimals = written.split('.')[1]?.length ?? 0
  return by(Number(written.replace('−', '-'))).toFixed(decimals).replace('-', '−')
}

/** A text that was written in °C and K, in the unit of the reader. */
export function inWords(text: string, degrees: Degrees): string {
  if (degrees === 'C') return text
  const each = (by: (figure: number) => number) => (_: string, first: string | undefined, between: string | undefined, last: string) =>
    `${first === undefined ? '' : turned(first, by) + (between ?? '')}${turned(last, by)} °F`
  return text.replace(CELSIUS, each((c) => c * 1.8 + 32)).replace(KELVIN, each((k) => k * 1.8))
}

/** An answer of the application with every text that it composed in the unit of the reader; figures stay as they are. */
export function inReadersDegrees<T>(answer: T, degrees: Degrees): T {
  return degrees === 'C' ? answer : (rewritten(answer, degrees) as T)
}

function rewritten(value: unknown, degrees: Degrees): unknown {
  if (typeof value === 'string') return inWords(value, degrees)
  if (Array.isArray(value)) return typeof value[0] === 'number' ? value : value.map((v) => rewritten(v, degrees))
  if (typeof value !== 'object' || value === null) return value
  // A label beside facts or factors was typed, of kit or of a run: it is found again by it, and sent back with corrections.
  const kit = 'fields' in value && !Array.isArray(value.fields)
  const labelled = kit || 'factors' in value
  return Object.fromEntries(
    Object.entries(value).map(([key, v]) => [key, byPeople(key, v) || BOTH.has(key) || (kit && key === 'fields') || (labelled && key === 'label') ? v : rewritten(v, degrees)]),
  )
}
