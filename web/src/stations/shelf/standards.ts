/** A transfer profile as it is typed: its name, and its watts where they are not those of its standard. */
export interface Profile {
  name: string
  watts: string
}

/** A place of a charger with what it gives there. */
export interface Place {
  place: string
  profiles: Profile[]
}

const PROFILE = /^(own:[^=@\s]+|[a-z0-9-]+)(?:\s*[=@:\s]\s*(\d+(?:[.,]\d+)?)\s*W?)?$/i

/** Profiles out of a field's text. */
export function profilesOf(text: string): Profile[] {
  return text
    .split(/[;\n]|(?<!\d),|,(?=\s)/)
    .map((p) => PROFILE.exec(p.trim()))
    .filter((m) => m !== null)
    .map((m) => ({ name: (m[1] ?? '').toLowerCase().startsWith('own:') ? (m[1] ?? '') : (m[1] ?? '').toLowerCase(), watts: (m[2] ?? '').replace(',', '.') }))
}

export const textOf = (profiles: Profile[]) => profiles.map((p) => (p.watts ? `${p.name}=${p.watts}` : p.name)).join(', ')

/** Places out of a field's text: `left: mpp; right: bpp`, or one without a name. */
export function placesOf(text: string): Place[] {
  const parts = text
    .split(/[;\n]/)
    .filter((p) => p.trim())
    .map((part) => {
      const named = /^\s*(?!own:)([^:]+):(.*)$/i.exec(part)
      return { place: named?.[1]?.trim() ?? '', profiles: profilesOf(named?.[2] ?? part) }
    })
  return parts.length > 0 ? parts : [{ place: '', profiles: [] }]
}

export const textOfPlaces = (places: Place[]) =>
  places
    .filter((p) => p.profiles.length > 0)
    .map((p) => (p.place.trim() ? `${p.place.trim()}: ${textOf(p.profiles)}` : textOf(p.profiles)))
    .join('; ')
