import { useMutation } from '@tanstack/react-query'
import { useMemo, useState } from 'react'
import { api, taken, type Shape } from '../../api/client'
import { useChanged } from '../../api/useChanged'
import { useKit } from '../../api/useKit'
import { ProblemLine } from '../../ui/Problem'
import { useKeys } from '../../ui/useKeys'

const number = (text: string) => Number(text.trim().replace(',', '.').replace('%', ''))

interface Props {
  pack: string
  hasCoil: boolean
  onKept: (test: Shape['PackTestShape']) => void
  onClose: () => void
}

/** A charge of a phone from a pack, typed: levels of both, before and after. */
export function ChargeForm({ pack, hasCoil, onKept, onClose }: Props) {
  const phones = (useKit().data ?? []).filter((k) => k.kind === 'phone').map((k) => k.label)
  const changed = useChanged('pack')
  const [phone, setPhone] = useState('')
  const [levels, setLevels] = useState(['', '', '', ''])
  const [asked, setAsked] = useState(false)
  const [byCord, setByCord] = useState(!hasCoil)
  const keep = useMutation({
    mutationFn: async () =>
      taken(
        await api.POST('/api/packs/{label}/charges', {
          params: { path: { label: pack } },
          body: {
            phone,
            pack_before: levels[0] ?? '',
            pack_after: levels[1] ?? '',
            phone_before: number(levels[2] ?? ''),
            phone_after: number(levels[3] ?? ''),
            by_cord: byCord,
          },
        }),
      ),
    onSuccess: async (test) => {
      await changed()
      onKept(test)
    },
  })
  useKeys(useMemo(() => ({ Escape: onClose }), [onClose]))
  const fields: [string, string][] = [
    ['pack before', '100'],
    ['pack after', '27 or 2 lamps'],
    ['phone before, %', '5'],
    ['phone after, %', '100'],
  ]
  const filled = phone !== '' && levels.every((text) => text.trim() !== '')
  return (
    <form
      className="border-base-content bg-base-200 mt-3 border px-4 py-3"
      aria-label="a phone charged from it"
      onSubmit={(event) => {
        event.preventDefault()
        setAsked(true)
        if (filled) keep.mutate()
      }}
      onKeyDown={(event) => {
        if (event.key === 'Escape') onClose()
      }}
    >
      <div className="flex flex-wrap items-end gap-x-4 gap-y-2">
        <b className="self-center">A phone charged from {pack}</b>
        <label className="block text-sm">
          <span className="soft block text-xs">phone</span>
          <select
            autoFocus
            className="select select-sm w-44"
            aria-label="phone"
            value={phone}
            onChange={(event) => {
              setPhone(event.target.value)
            }}
          >
            <option value="">choose one</option>
            {phones.map((label) => (
              <option key={label}>{label}</option>
            ))}
          </select>
        </label>
        {fields.map(([name, example], i) => (
          <label key={name} className="block text-sm">
            <span className="soft block text-xs">{name}</span>
            <input
              className="input input-sm reading w-32"
              aria-label={name}
              placeholder={example}
              value={levels[i]}
              onChange={(event) => {
                setLevels(levels.map((text, k) => (k === i ? event.target.value : text)))
              }}
            />
          </label>
        ))}
        {hasCoil && (
          <label className="flex items-center gap-2 pb-1.5 text-sm">
            <input
              type="checkbox"
              className="checkbox checkbox-sm"
              checked={byCord}
              onChange={(event) => {
                setByCord(event.target.checked)
              }}
            />
            by cord
          </label>
        )}
        <button className="btn btn-primary btn-sm" disabled={keep.isPending}>
          Keep the charge
        </button>
        <button type="button" className="btn btn-ghost btn-sm font-normal" onClick={onClose}>
          Cancel
        </button>
      </div>
      <p className="soft mt-2 text-xs">A pack's level is a percentage, or its lamps: “3 lamps”, “2/5”. Four lamps leave a wide range.</p>
      {asked && !filled && (
        <p role="alert" className="mt-1 text-sm">
          {phone === '' ? 'Choose the phone first.' : 'All four levels are needed.'}
        </p>
      )}
      {keep.error && <ProblemLine error={keep.error} />}
    </form>
  )
}
