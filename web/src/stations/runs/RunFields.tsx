import { useEffect, useEffectEvent, useId } from 'react'

import type { Shape } from '../../api/client'
import { useKit, type KitKind } from '../../api/useKit'
import { useMethod } from '../../api/useMethod'
import { usePhones } from '../../api/usePhones'
import { inCelsius } from '../../ui/format'
import { useSettings, type Degrees } from '../../reader/settings'

export interface Stated {
  label: string
  factors: Required<Shape['Factors']>
  capacity_mah: string
  nominal_v: string
  battery_health: string
  claimed_w: string
  /** The room, in the unit of the setting. */
  room: string
  interval_min: string
}

export const NOTHING_STATED: Stated = {
  label: '',
  factors: {
    phone: '', charger: '', adapter: '', cable: '', case: '', airflow: '', phone_state: '', ambient: '', software: '', place: '',
    beside: '', shares: '', alignment: '', orientation: '', start: '', meter_in_line: '', method: '',
  },
  capacity_mah: '',
  nominal_v: '',
  battery_health: '',
  claimed_w: '',
  room: '',
  interval_min: '',
}

/** Factors that are seldom stated: folded away. */
const RARE = ['software', 'place', 'beside', 'shares', 'alignment', 'orientation', 'start', 'meter_in_line'] as const

const figure = (text: string) => {
  const trimmed = text.trim().replace(',', '.')
  return trimmed === '' ? undefined : Number(trimmed)
}

/** Fields whose text is no number, by name. */
export function notNumbers(stated: Stated): string[] {
  const fields = ['capacity_mah', 'nominal_v', 'battery_health', 'claimed_w', 'room', 'interval_min'] as const
  return fields.filter((f) => Number.isNaN(figure(stated[f]) ?? 0))
}

/** What was typed, as the application wants it; the health is typed in percent, the room in °C or °F. */
export function caseOf(stated: Stated, degrees: Degrees, rest: Partial<Shape['Case']> = {}): Shape['Case'] {
  const health = figure(stated.battery_health)
  const room = figure(stated.room)
  return {
    ...rest,
    capacity_mah: figure(stated.capacity_mah),
    nominal_v: figure(stated.nominal_v),
    battery_health: health === undefined ? undefined : health / 100,
    claimed_w: figure(stated.claimed_w),
    ambient_c: room === undefined ? undefined : Number(inCelsius(room, degrees).toFixed(2)),
    interval_min: figure(stated.interval_min),
  } as Shape['Case']
}

interface Props {
  stated: Stated
  /** Whether it is of one run, which has a label of its own. */
  withLabel?: boolean
  onChange: (stated: Stated) => void
}

/** The battery, the chain and the surroundings of a run. */
export function RunFields({ stated, withLabel = true, onChange }: Props) {
  const phones = usePhones()
  const { degrees } = useSettings()
  const kit = useKit()
  const method = useMethod()
  const labels = (...kinds: KitKind[]) => kit.data?.filter((k) => kinds.includes(k.kind)).map((k) => k.label) ?? []
  const factor = (name: keyof Stated['factors'], text: string, placeholder = '', known: string[] = []) => (
    <Field
      text={text}
      known={known}
      placeholder={placeholder}
      value={stated.factors[name]}
      onChange={(v) => {
        onChange({ ...stated, factors: { ...stated.factors, [name]: v } })
      }}
    />
  )
  const bad = notNumbers(stated)
  const number = (name: Exclude<keyof Stated, 'factors' | 'label'>, text: string, unit: string, placeholder = '') => (
    <Field
      text={text}
      unit={unit}
      placeholder={placeholder}
      value={stated[name]}
      wrong={bad.includes(name) ? 'write a number' : undefined}
      onChange={(v) => {
        onChange({ ...stated, [name]: v })
      }}
    />
  )
  const withBattery = (next: Stated): Stated => {
    const known = phones.data?.find((p) => p.label === next.factors.phone)
    if (!known || next.capacity_mah || next.nominal_v) return next
    return {
      ...next,
      capacity_mah: known.capacity_mah?.toString() ?? '',
      nominal_v: known.nominal_v?.toString() ?? '',
      battery_health: known.battery_health ? (known.battery_health * 100).toFixed(0) : '',
    }
  }
  const choosePhone = (label: string) => {
    onChange(withBattery({ ...stated, factors: { ...stated.factors, phone: label } }))
  }
  const withClaim = (next: Stated): Stated => {
    const claim = kit.data?.find((k) => k.label === next.factors.charger)?.fields.claimed_w
    return claim && !next.claimed_w ? { ...next, claimed_w: claim } : next
  }
  const chooseCharger = (label: string) => {
    onChange(withClaim({ ...stated, factors: { ...stated.factors, charger: label } }))
  }
  const fillIn = useEffectEvent(() => {
    const filled = withClaim(withBattery(stated))
    if (filled !== stated) onChange(filled)
  })
  // Phone and charger may have been named before the lists of known ones arrived, or by a plan.
  useEffect(() => {
    if (phones.isSuccess || kit.isSuccess) fillIn()
  }, [phones.isSuccess, kit.isSuccess, stated.factors.phone, stated.factors.charger])
  return (
    <div className="grid grid-cols-6 gap-x-3 gap-y-1.5">
      <div className="col-span-3">
        <Field
          text="phone"
          value={stated.factors.phone}
          known={phones.data?.map((p) => p.label) ?? []}
          onChange={choosePhone}
        />
      </div>
      <div className="col-span-3">
        <Field text="charger" value={stated.factors.charger} known={labels('charger', 'pack')} onChange={chooseCharger} />
      </div>
      <div className="col-span-2">{number('capacity_mah', 'battery', 'mAh', '4360')}</div>
      <div className="col-span-2">{number('nominal_v', 'at', 'V', '3.87')}</div>
      <div className="col-span-2">{number('battery_health', 'health', '%', 'unknown')}</div>
      <div className="col-span-2">{factor('adapter', 'adapter', '20 W', labels('adapter'))}</div>
      <div className="col-span-2">{factor('cable', 'cable', '', labels('cable'))}</div>
      <div className="col-span-2">{number('claimed_w', 'charger claims', 'W')}</div>
      <div className="col-span-2">{factor('case', 'case', 'none', labels('case'))}</div>
      <div className="col-span-2">{factor('airflow', 'airflow', 'still air')}</div>
      <div className="col-span-2">{factor('phone_state', 'phone is', 'idle')}</div>
      <div className="col-span-2">{number('room', 'room', `°${degrees}`)}</div>
      <div className="col-span-2">{number('interval_min', 'read every', 'min')}</div>
      <div className="col-span-2">
        {factor('method', 'method card', 'none', method.data?.cards.map((c) => c.card.name))}
      </div>
      <details className="col-span-6 text-sm" open={RARE.some((name) => stated.factors[name] !== '')}>
        <summary className="soft cursor-pointer text-xs">what else could differ between two runs</summary>
        <div className="mt-1 grid grid-cols-2 gap-x-3 gap-y-1.5">
          {method.data?.factors
            .filter((f) => RARE.some((name) => name === f.name))
            .map((f) => (
              <div key={f.name}>{factor(f.name as keyof Stated['factors'], f.said, f.example)}</div>
            ))}
        </div>
      </details>
      {withLabel && (
        <div className="col-span-6">
          <Field
            text="label"
            placeholder="phone on charger, if left empty"
            value={stated.label}
            onChange={(v) => {
              onChange({ ...stated, label: v })
            }}
          />
        </div>
      )}
    </div>
  )
}

interface FieldProps {
  text: string
  value: string
  unit?: string
  placeholder?: string
  /** Labels that are on the shelf. */
  known?: string[]
  wrong?: string
  onChange: (value: string) => void
}

function Field({ text, value, unit, placeholder, known, wrong, onChange }: FieldProps) {
  const id = useId()
  return (
    <label className="block text-sm">
      <span className="soft text-xs">{text}</span>
      <span className={`input input-sm w-full ${wrong ? 'input-error' : ''}`}>
        <input
          className="min-w-0 grow"
          value={value}
          placeholder={placeholder}
          list={known?.length ? id : undefined}
          inputMode={unit ? 'decimal' : undefined}
          maxLength={120}
          aria-label={unit ? `${text}, ${unit}` : text}
          aria-invalid={wrong !== undefined}
          onChange={(e) => {
            onChange(e.target.value)
          }}
        />
        {unit && <span className="soft">{unit}</span>}
      </span>
      {Boolean(known?.length) && (
        <datalist id={id}>
          {[...new Set(known)].map((k) => (
            <option key={k} value={k} />
          ))}
        </datalist>
      )}
      {wrong && <span className="text-error text-xs">{wrong}</span>}
    </label>
  )
}
