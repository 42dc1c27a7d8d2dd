import { useMutation } from '@tanstack/react-query'
import { useChanged } from '../api/useChanged'
import { useState, type FormEvent } from 'react'
import { api, taken, type Shape } from '../api/client'
import { useBenchSettings } from '../api/useBenchSettings'
import { ProblemLine } from '../ui/Problem'
import { useSay } from '../ui/Undo'

type Habits = Shape['HabitsShape']

/** Hours of a night, charges a year, the tariff and what gets through to the meter; the same for all runs. */
export function HabitsForm({ about = 'standing by' }: { about?: 'standing by' | 'charges' }) {
  const settings = useBenchSettings()
  const [open, setOpen] = useState(false)
  if (!settings.data) return null
  const h = settings.data.habits
  return (
    <div className="mt-2 text-sm">
      <p>
        {about === 'charges' ? (
          <>
            <span className="soft">A year assumes</span> {h.charges_year} charges; <span className="soft">the meter gets</span> {share(h.adapter_share)} of what the socket gives and{' '}
            {share(h.hut_share)} of what a hut's battery gives; {h.tariff} {h.currency}/kWh{' '}
          </>
        ) : (
          <>
            <span className="soft">Standby assumes</span> {h.full_h} h a night after full, {24 - h.night_h} h with no phone
            {h.unplugged && ' (unplugged then)'}, {h.tariff} {h.currency}/kWh{' '}
          </>
        )}
        <button className="cursor-pointer underline" aria-expanded={open} onClick={() => { setOpen(!open) }}>
          change
        </button>
      </p>
      {open && <Form habits={h} onDone={() => { setOpen(false) }} />}
    </div>
  )
}

const percent = (part: number | undefined) => String(Math.round((part ?? 1) * 1000) / 10)
const share = (part: number | undefined) => `${percent(part)}\u00a0%`

function Form({ habits, onDone }: { habits: Habits; onDone: () => void }) {
  const changed = useChanged('habits')
  const say = useSay()
  const [typed, setTyped] = useState({
    night_h: String(habits.night_h),
    full_h: String(habits.full_h),
    tariff: String(habits.tariff),
    currency: habits.currency,
    charges_year: String(habits.charges_year),
    adapter: percent(habits.adapter_share),
    hut: percent(habits.hut_share),
  })
  const [unplugged, setUnplugged] = useState(habits.unplugged)
  const put = async (body: Habits) => taken(await api.PUT('/api/settings/habits', { body }))
  const number = (text: string) => Number(text.replace(',', '.'))
  const change = useMutation({
    mutationFn: () =>
      put({
        revision: habits.revision,
        night_h: number(typed.night_h),
        full_h: number(typed.full_h),
        tariff: number(typed.tariff),
        currency: typed.currency,
        unplugged,
        charges_year: number(typed.charges_year),
        adapter_share: number(typed.adapter) / 100,
        hut_share: number(typed.hut) / 100,
      }),
    onSuccess: async (now) => {
      onDone()
      await changed()
      say({
        text: 'Worked out again.',
        undo: async () => {
          await put({ ...habits, revision: now.habits.revision })
          await changed()
        },
      })
    },
  })
  const field = (name: keyof typeof typed, label: string, unit: string) => (
    <label className="flex items-center gap-1">
      <span className="soft">{label}</span>
      <input
        className="input input-sm reading w-20 text-right"
        required
        value={typed[name]}
        onChange={(e) => {
          setTyped({ ...typed, [name]: e.target.value })
        }}
      />
      <span className="soft">{unit}</span>
    </label>
  )
  const send = (event: FormEvent) => {
    event.preventDefault()
    change.mutate()
  }
  return (
    <form className="bg-base-200 mt-1 flex flex-wrap items-center gap-x-4 gap-y-2 px-3 py-2" onSubmit={send} aria-label="habits and tariff">
      {field('night_h', 'a phone lies on it', 'h a night')}
      {field('full_h', 'full already for', 'h of them')}
      {field('tariff', 'a kWh costs', '')}
      {field('currency', 'in', '')}
      {field('charges_year', 'it charges', 'times a year')}
      {field('adapter', 'the adapter passes', '%')}
      {field('hut', "from a hut's battery to the meter", '%')}
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          className="checkbox checkbox-sm"
          checked={unplugged}
          onChange={(e) => {
            setUnplugged(e.target.checked)
          }}
        />
        unplugged while no phone lies on it
      </label>
      <button className="btn btn-sm btn-primary" disabled={change.isPending}>
        Apply
      </button>
      <button type="button" className="btn btn-sm btn-ghost font-normal" onClick={onDone}>
        Cancel
      </button>
      {change.isError && <ProblemLine error={change.error} />}
    </form>
  )
}
