/** Times by the clock of a zone, wherever the page is looked at. */

/** The zone of this browser. */
export const ZONE = Intl.DateTimeFormat().resolvedOptions().timeZone

const formats = new Map<string, Intl.DateTimeFormat>()

function format(zone: string, options: Intl.DateTimeFormatOptions): Intl.DateTimeFormat {
  const key = zone + JSON.stringify(options)
  const known = formats.get(key)
  if (known) return known
  const formatter = new Intl.DateTimeFormat('en-GB', { timeZone: zone, ...options })
  formats.set(key, formatter)
  return formatter
}

/** `08:15` */
export const clockAt = (moment: string, zone: string) =>
  format(zone, { hour: '2-digit', minute: '2-digit' }).format(new Date(moment))

/** `Mon 1 Mar` */
export const dayAt = (moment: string, zone: string) =>
  format(zone, { weekday: 'short', day: 'numeric', month: 'short' }).format(new Date(moment)).replace(',', '')

/** `Mon 1 Mar, 08:15` */
export const momentAt = (moment: string, zone: string) => `${dayAt(moment, zone)}, ${clockAt(moment, zone)}`

/** `1 Mar 2027` */
export const dateAt = (moment: string, zone: string) => format(zone, { day: 'numeric', month: 'short', year: 'numeric' }).format(new Date(moment))

/** The day, and the year: `1 Mar`, `2027`. */
export const shortDate = (moment: string, zone: string) => {
  const [day = '', month = '', year = ''] = dateAt(moment, zone).split(' ')
  return [`${day} ${month}`, year] as const
}

/** `1 Mar 2027, 08:15` */
export const whenAt = (moment: string, zone: string) => `${dateAt(moment, zone)}, ${clockAt(moment, zone)}`

/** The hour of the day. */
export const hourAt = (time: number, zone: string) => Number(format(zone, { hour: '2-digit', hourCycle: 'h23' }).format(time))

/** For a field of date and time: `2027-03-01T08:15`. */
export function forField(moment: Date, zone: string): string {
  const parts = format(zone, {
    year: 'numeric', month: '2-digit', day: '2-digit', hour: '2-digit', minute: '2-digit', hourCycle: 'h23',
  }).formatToParts(moment)
  const part = (type: string) => parts.find((p) => p.type === type)?.value ?? ''
  return `${part('year')}-${part('month')}-${part('day')}T${part('hour')}:${part('minute')}`
}

/** A moment typed by the clock of a zone, as the world has it. */
export function inZone(typed: string, zone: string): string {
  const guess = new Date(`${typed}:00Z`)
  const shown = new Date(`${forField(guess, zone)}:00Z`)
  return new Date(2 * guess.getTime() - shown.getTime()).toISOString()
}

/** Age or distance of a moment in words: 7 s, 4 min, 2 h 10. */
export function apart(seconds: number): string {
  const size = Math.abs(seconds)
  if (size < 90) return `${String(Math.round(size))} s`
  const minutes = Math.round(size / 60)
  return minutes < 100 ? `${String(minutes)} min` : `${String(Math.floor(minutes / 60))} h ${String(minutes % 60).padStart(2, '0')}`
}
