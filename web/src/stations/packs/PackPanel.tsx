import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { api, taken } from '../../api/client'
import { queries } from '../../api/queries'
import { ProblemLine } from '../../ui/Problem'
import { unbroken } from '../../ui/text'
import { TestList, TestShown } from './PackTests'
import { Said } from './Said'

interface Props {
  label: string
  chosen: string | null
  onChoose: (id: string) => void
}

/** The chosen pack: what its tests say together, its tests, and the one that is looked at. */
export function PackPanel({ label, chosen, onChoose }: Props) {
  const pack = useQuery(queries.pack(label))
  const [open, setOpen] = useState<string | null>(null)
  if (pack.error) return <ProblemLine error={pack.error} />
  if (!pack.data) return null
  const { tests, cautions, sentences, figures, fair_pair: pair } = pack.data
  const shown = tests.find((t) => t.id === chosen)?.id ?? pack.data.first_shown
  return (
    <section aria-label={`tests of ${label}`} className="mt-4 grid grid-cols-1 gap-x-10 gap-y-6 lg:grid-cols-2">
      <div className="min-w-0">
        <h2 className="font-semibold">{label}</h2>
        {tests.length === 0 && (
          <p className="mt-2 max-w-prose text-sm">
            Not tested yet. Drop the log of a load test here (volts and amps, from full until it goes off by itself) or a table of charges, or type what
            the display says.
          </p>
        )}
        <Said sentences={sentences} figures={figures} open={open} onOpen={setOpen} />
        {pair.length > 1 && (
          <p className="mt-1 text-sm">
            <Link className="underline underline-offset-2" to={`/versus?runs=${pair.join(',')}`}>
              Lay coil and cord side by side in Versus
            </Link>
          </p>
        )}
        {tests.length > 0 && <TestList tests={tests} shown={shown} onChoose={onChoose} />}
        <Hours label={label} />
        <details className="soft mt-4 max-w-prose text-xs">
          <summary className="cursor-pointer">Before the first discharge</summary>
          {cautions.map((c) => (
            <p key={c} className="mt-1">
              {c}
            </p>
          ))}
        </details>
      </div>
      {shown !== null && <TestShown id={shown} />}
    </section>
  )
}

/** How long a full pack feeds a load, before that is tried. */
function Hours({ label }: { label: string }) {
  const [typed, setTyped] = useState('')
  const watts = Number(typed.replace(',', '.').replace(/\s*w$/i, ''))
  const good = typed.trim() !== '' && watts > 0 && watts <= 5000
  const hours = useQuery({
    queryKey: ['packs', 'hours', label, watts],
    queryFn: async () => taken(await api.GET('/api/packs/{label}/hours', { params: { path: { label }, query: { watts } } })),
    enabled: good,
  })
  return (
    <p className="mt-2 flex flex-wrap items-center gap-2 text-sm">
      <label className="flex items-center gap-2">
        How long would it feed
        <input
          className="input input-xs reading w-16"
          aria-label="a load, W"
          placeholder="5"
          value={typed}
          onChange={(event) => {
            setTyped(event.target.value)
          }}
        />
        W?
      </label>
      <span role="status">
        {typed.trim() !== '' && !good && 'Write watts, 0 to 5000.'}
        {good && hours.data && unbroken(hours.data.said)}
      </span>
    </p>
  )
}
