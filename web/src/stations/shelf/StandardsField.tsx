import { useState } from 'react'
import type { Shape } from '../../api/client'
import { placesOf, profilesOf, textOf, textOfPlaces, type Place, type Profile } from './standards'

type Standard = Shape['StandardShape']

interface Props {
  label: string
  value: string
  standards: Standard[]
  /** Whether it is a phone that takes them. */
  phone: boolean
  invalid: boolean
  described: string | undefined
  onTyped: (value: string) => void
}

/** The standards of one coil, ticked by name, each with the watts where it stays below; and a maker's own mode. */
export function StandardsField({ label, value, standards, phone, invalid, described, onTyped }: Props) {
  return (
    <Ticks
      label={label}
      profiles={profilesOf(value)}
      standards={standards.filter((s) => !phone || s.phone)}
      invalid={invalid}
      described={described}
      onProfiles={(next) => {
        onTyped(textOf(next))
      }}
    />
  )
}

/** The places of a charger, each with its standards. */
export function PlacesField({ label, value, standards, invalid, described, onTyped }: Omit<Props, 'phone'>) {
  // A place that was just added has nothing to give yet, and no text.
  const [places, setPlaces] = useState<Place[]>(() => placesOf(value))
  const put = (next: Place[]) => {
    setPlaces(next)
    onTyped(textOfPlaces(next))
  }
  const change = (n: number, changed: Partial<Place>) => {
    put(places.map((p, i) => (i === n ? { ...p, ...changed } : p)))
  }
  return (
    <div className="space-y-2">
      {places.map((p, n) => (
        <div key={n} className={places.length > 1 ? 'border-base-300 border-l-2 pl-2' : ''}>
          {places.length > 1 && (
            <div className="mb-1 flex items-center gap-2">
              <input
                className="input input-xs w-40"
                aria-label={`name of place ${String(n + 1)}`}
                placeholder="left, right, watch …"
                value={p.place}
                onChange={(e) => {
                  change(n, { place: e.target.value })
                }}
              />
              <button
                type="button"
                className="soft cursor-pointer text-xs underline"
                onClick={() => {
                  put(places.filter((_, i) => i !== n))
                }}
              >
                remove
              </button>
            </div>
          )}
          <Ticks
            label={places.length > 1 ? `${label}, place ${String(n + 1)}` : label}
            profiles={p.profiles}
            standards={standards}
            invalid={invalid && p.profiles.length === 0}
            described={described}
            onProfiles={(profiles) => {
              change(n, { profiles })
            }}
          />
        </div>
      ))}
      <button
        type="button"
        className="soft cursor-pointer text-xs underline"
        onClick={() => {
          setPlaces([...places, { place: '', profiles: [] }])
        }}
      >
        {places.length > 1 ? 'add a place' : 'it charges in several places'}
      </button>
    </div>
  )
}

interface TicksProps {
  label: string
  profiles: Profile[]
  standards: Standard[]
  invalid: boolean
  described: string | undefined
  onProfiles: (profiles: Profile[]) => void
}

function Ticks({ label, profiles, standards, invalid, described, onProfiles }: TicksProps) {
  const own = profiles.find((p) => p.name.startsWith('own:'))
  const others = profiles.filter((p) => !p.name.startsWith('own:'))
  const put = (name: string, watts: string | null) => {
    const rest = profiles.filter((p) => p.name !== name)
    const order = [...standards.map((s) => s.name)]
    const next = watts === null ? rest : [...rest, { name, watts }]
    onProfiles(next.sort((a, b) => (order.indexOf(a.name) + 1 || 99) - (order.indexOf(b.name) + 1 || 99)))
  }
  return (
    <fieldset role="group" aria-label={label} aria-invalid={invalid} aria-describedby={described} className={`grid grid-cols-2 gap-x-4 gap-y-1 ${invalid ? 'border-error border-l-4 pl-2' : ''}`}>
      {standards.map((s, i) => {
        const ticked = others.find((p) => p.name === s.name)
        return (
          <span key={s.name} className="flex items-center gap-2">
            <label className="flex items-center gap-2">
              <input
                type="checkbox"
                className="checkbox checkbox-sm"
                checked={ticked !== undefined}
                data-first={i === 0 || undefined}
                onChange={(e) => {
                  put(s.name, e.target.checked ? '' : null)
                }}
              />
              {s.said}
            </label>
            {ticked && (
              <span className="flex items-center gap-1 text-xs">
                <span className="soft">at most</span>
                <input
                  className="input input-xs reading w-12 px-1"
                  inputMode="decimal"
                  aria-label={`watts at most by ${s.said}`}
                  placeholder={String(s.watts)}
                  value={ticked.watts}
                  onChange={(e) => {
                    put(s.name, e.target.value.replace(',', '.'))
                  }}
                />
                <span className="soft">W</span>
              </span>
            )}
          </span>
        )
      })}
      <span className="col-span-2 flex items-center gap-2">
        <span className="soft">a maker's own mode</span>
        <input
          className="input input-xs w-36"
          aria-label="name of the maker's own mode"
          placeholder="its name"
          value={own?.name.slice(4) ?? ''}
          onChange={(e) => {
            const name = e.target.value.replace(/[\s=@,;]/g, '')
            onProfiles([...others, ...(name ? [{ name: `own:${name}`, watts: own?.watts ?? '' }] : [])])
          }}
        />
        {own && (
          <>
            <input
              className="input input-xs reading w-14 px-1"
              inputMode="decimal"
              aria-label="watts of the maker's own mode"
              value={own.watts}
              onChange={(e) => {
                onProfiles([...others, { ...own, watts: e.target.value.replace(',', '.') }])
              }}
            />
            <span className="soft">W</span>
          </>
        )}
      </span>
    </fieldset>
  )
}
