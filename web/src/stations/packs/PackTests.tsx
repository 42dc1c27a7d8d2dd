import { useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { api, taken, type Shape } from '../../api/client'
import { queries } from '../../api/queries'
import { useChanged } from '../../api/useChanged'
import { ProblemLine } from '../../ui/Problem'
import { begun, unbroken } from '../../ui/text'
import { whenAt } from '../../ui/times'
import { useSay } from '../../ui/Undo'
import { LoadChart } from './LoadChart'
import { Said } from './Said'
import { Wide } from '../../ui/Wide'

const zone = Intl.DateTimeFormat().resolvedOptions().timeZone || 'UTC'

type Row = Shape['TestRow']

interface ListProps {
  tests: Row[]
  shown: string | null
  onChoose: (id: string) => void
}

/** Tests of a pack, the latest first; each can be looked at and deleted. */
export function TestList({ tests, shown, onChoose }: ListProps) {
  const say = useSay()
  const changed = useChanged('pack')
  const remove = useMutation({
    mutationFn: async (id: string) => taken(await api.DELETE('/api/pack-tests/{test_id}', { params: { path: { test_id: id } } })),
    onSuccess: async (gone) => {
      await changed()
      say({
        text: 'The test is deleted.',
        undo: async () => {
          await api.POST('/api/pack-tests/{test_id}/restored', { params: { path: { test_id: gone.id } } })
          await changed()
        },
      })
    },
  })
  return (
    <>
      <ul className="mt-2">
        {tests.map((t) => (
          <li key={t.id} className={`border-base-300 flex items-baseline gap-3 border-b py-1 text-sm ${t.id === shown ? 'bg-base-200' : ''}`}>
            <button
              className="min-w-0 flex-1 cursor-pointer px-2 text-left underline-offset-2 hover:underline"
              aria-pressed={t.id === shown}
              onClick={() => {
                onChoose(t.id)
              }}
            >
              {begun(unbroken(t.said))}
            </button>
            <span className="soft text-xs whitespace-nowrap">{whenAt(t.at, zone)}</span>
            <button
              className="btn btn-ghost btn-xs font-normal"
              aria-label={`delete: ${t.said}`}
              onClick={() => {
                remove.mutate(t.id)
              }}
            >
              Delete
            </button>
          </li>
        ))}
      </ul>
      {remove.error && <ProblemLine error={remove.error} />}
    </>
  )
}

/** A test, read: its volts where a load was logged, its sentences with their figures, what to be careful about. */
export function TestShown({ id }: { id: string }) {
  const test = useQuery(queries.packTest(id))
  const [open, setOpen] = useState<string | null>(null)
  if (test.error) return <ProblemLine error={test.error} />
  if (!test.data) return <p className="soft text-sm">Reading …</p>
  const { traces, steps, warnings, by_load: byLoad } = test.data
  return (
    <div className="min-w-0">
      <p className="soft text-sm">{begun(unbroken(test.data.said))}</p>
      {test.data.kind === 'load' && (traces.length > 0 || steps.length > 1) && <LoadChart test={test.data} />}
      <Said sentences={test.data.sentences} figures={test.data.figures} open={open} onOpen={setOpen} />
      {byLoad.length > 1 && (
        <Wide least={24} className="mt-2 text-sm" aria-label="efficiency over load">
          <thead>
            <tr className="soft text-left text-xs">
              <th className="pr-6 font-normal">in</th>
              <th className="pr-6 font-normal">out</th>
              <th className="font-normal">out of in</th>
            </tr>
          </thead>
          <tbody className="reading">
            {byLoad.map((a) => (
              <tr key={a.out_w}>
                <td className="pr-6">{a.in_w.toFixed(2)} W</td>
                <td className="pr-6">{a.out_w.toFixed(2)} W</td>
                <td>
                  {(100 * a.share).toFixed(0)}
                  {a.expanded !== null && ` ± ${(100 * a.expanded).toFixed(0)}`} %
                </td>
              </tr>
            ))}
          </tbody>
        </Wide>
      )}
      {warnings.length > 0 && (
        <>
          <h3 className="mt-3 text-sm font-semibold">Careful</h3>
          {warnings.map((w) => (
            <p key={w} className="soft text-sm">
              {unbroken(w)}
            </p>
          ))}
        </>
      )}
    </div>
  )
}
