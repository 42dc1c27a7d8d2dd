import { useMutation, useQuery } from '@tanstack/react-query'
import { api, taken, type Shape } from '../../api/client'
import { queries } from '../../api/queries'
import { useChanged } from '../../api/useChanged'
import { whenAt } from '../../ui/times'
import { ProblemLine } from '../../ui/Problem'
import { begun, unbroken } from '../../ui/text'
import { useSay } from '../../ui/Undo'
import { LoadChart } from './LoadChart'

const zone = Intl.DateTimeFormat().resolvedOptions().timeZone || 'UTC'

interface Props {
  pack: Shape['PackRow']
  chosen: string | null
  onChoose: (id: string) => void
}

/** The tests of a pack, and the chosen one: its sentences, and of a load test its volts. */
export function PackTests({ pack, chosen, onChoose }: Props) {
  const say = useSay()
  const changed = useChanged('pack')
  const shown = chosen ?? pack.tests.find((t) => t.kind === 'load')?.id ?? pack.tests[0]?.id ?? null
  const test = useQuery({ ...queries.packTest(shown ?? ''), enabled: shown !== null })
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
    <section aria-label={`tests of ${pack.label}`} className="mt-4 grid gap-6 lg:grid-cols-[1fr_1fr]">
      <div className="min-w-0">
        <h2 className="font-semibold">{pack.label}</h2>
        <p className="soft text-sm">{pack.cabin_said}</p>
        {pack.tests.length === 0 && (
          <p className="mt-2 max-w-prose text-sm">
            Not tested yet. Drop the log of a load test here (volts and amps, from full until it goes off by itself), or type a phone's charge from it.
          </p>
        )}
        <ul className="mt-2">
          {pack.tests.map((t) => (
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
      </div>
      {test.data && shown !== null && (
        <div className="min-w-0">
          {test.data.kind === 'load' && <LoadChart test={test.data} />}
          <ul className="mt-2 space-y-1">
            {test.data.sentences.map((s) => (
              <li key={s.key + s.text} className="text-sm">
                {unbroken(s.text)}
              </li>
            ))}
          </ul>
          {test.data.warnings.length > 0 && (
            <>
              <h3 className="mt-3 text-sm font-semibold">Careful</h3>
              {test.data.warnings.map((w) => (
                <p key={w} className="soft text-sm">
                  {w}
                </p>
              ))}
            </>
          )}
        </div>
      )}
      {(test.error ?? remove.error) && <ProblemLine error={test.error ?? remove.error} />}
    </section>
  )
}
