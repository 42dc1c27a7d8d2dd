import { useMutation } from '@tanstack/react-query'
import { useChanged } from '../../api/useChanged'
import { useState, type FormEvent } from 'react'
import { api, taken, type Shape } from '../../api/client'
import { useBenchSettings } from '../../api/useBenchSettings'
import { ProblemLine } from '../../ui/Problem'
import { useSay } from '../../ui/Undo'
import { unbroken } from '../../ui/text'
import { Wide } from '../../ui/Wide'

interface Props {
  run: Shape['RunShape']
  output: Shape['OutputShape']
  judged: Shape['JudgedShape']
}

/** What each method makes of the output, side by side with what it assumes; and the run as reference. */
export function OutputPanel({ run, output, judged }: Props) {
  return (
    <section aria-label="output" className="mt-8 max-w-5xl text-sm">
      <h2 className="text-lg font-bold">Output by each method</h2>
      <Wide least={30} className="mt-1 w-full">
        <thead className="soft border-base-300 border-b text-left text-xs">
          <tr>
            <th className="py-1 font-normal">method</th>
            <th className="py-1 text-right font-normal">W</th>
            <th className="py-1 pl-6 font-normal">at the</th>
            <th className="py-1 pl-6 font-normal">assumes that</th>
          </tr>
        </thead>
        <tbody>
          {output.estimates.map((e) => (
            <tr key={e.method} className="border-base-300 border-b align-top">
              <th scope="row" className="py-1.5 text-left font-normal">
                {e.method}
              </th>
              <td className="reading py-1.5 text-right whitespace-nowrap">
                {e.watts.toFixed(1)} ± {e.expanded.toFixed(1)}
              </td>
              <td className="py-1.5 pl-6">{e.point}</td>
              <td className="soft py-1.5 pl-6">{unbroken(e.assumes)}</td>
            </tr>
          ))}
        </tbody>
      </Wide>
      <p className="soft mt-1 text-xs">
        The class uses the first row. The battery row is lower because losses come before it.
      </p>
      <Reference run={run} output={output} judged={judged} />
    </section>
  )
}

/** The ratio that is used, and a way to take this run as the reference. */
function Reference({ run, output, judged }: Props) {
  const changed = useChanged('reference')
  const say = useSay()
  const settings = useBenchSettings()
  const [watts, setWatts] = useState(output.claimed_w?.toString() ?? '15')
  const [open, setOpen] = useState(false)
  const revision = settings.data?.reference.revision ?? judged.reference_revision
  const refresh = changed
  const drop = async (at: number) => {
    taken(await api.DELETE('/api/settings/reference', { params: { query: { revision: at } } }))
    await refresh()
  }
  const name = useMutation({
    mutationFn: async () =>
      taken(
        await api.PUT('/api/settings/reference', {
          body: { run: run.id, delivered_w: Number(watts.replace(',', '.')), revision },
        }),
      ),
    onSuccess: async (now) => {
      setOpen(false)
      await refresh()
      say({ text: `“${run.label}” is the reference: k = ${now.reference.k.toFixed(3)} for all runs.`, undo: () => drop(now.reference.revision) })
    },
  })
  const send = (event: FormEvent) => {
    event.preventDefault()
    name.mutate()
  }
  const dropped = useMutation({ mutationFn: () => drop(revision) })
  return (
    <div className="mt-2">
      <p>
        k = {output.ratio.toFixed(3)} ± {output.ratio_expanded.toFixed(3)} <span className="soft">({unbroken(output.ratio_from)})</span>{' '}
        {judged.reference_here ? (
          <button className="cursor-pointer underline" onClick={() => { dropped.mutate() }}>
            this run is the reference; take the usual k again
          </button>
        ) : (
          <button className="cursor-pointer underline" aria-expanded={open} onClick={() => { setOpen(!open) }}>
            take this run as reference
          </button>
        )}
      </p>
      {open && (
        <form className="bg-base-200 mt-1 flex flex-wrap items-center gap-3 px-3 py-2" onSubmit={send} aria-label="take this run as reference">
          <label className="flex items-center gap-1">
            <span className="soft">its chain is known to deliver</span>
            <input
              className="input input-sm reading w-20 text-right"
              inputMode="decimal"
              required
              autoFocus
              value={watts}
              onChange={(e) => {
                setWatts(e.target.value)
              }}
            />
            <span className="soft">W</span>
          </label>
          <button className="btn btn-sm btn-primary" disabled={name.isPending}>
            Use its k for all runs
          </button>
          <button type="button" className="btn btn-sm btn-ghost font-normal" onClick={() => { setOpen(false) }}>
            Cancel
          </button>
          {name.isError && <ProblemLine error={name.error} />}
        </form>
      )}
      {dropped.isError && <ProblemLine error={dropped.error} />}
    </div>
  )
}
