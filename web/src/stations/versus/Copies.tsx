import { useMutation } from '@tanstack/react-query'
import { useChanged } from '../../api/useChanged'
import { api, taken } from '../../api/client'
import type { Versus } from '../../api/useVersus'
import { ProblemLine } from '../../ui/Problem'
import { useSay } from '../../ui/Undo'

/** Runs of those compared that are another one read twice: they may go. */
export function Copies({ copies }: { copies: Versus['copies'] }) {
  const changed = useChanged('run')
  const say = useSay()
  const removed = useMutation({
    mutationFn: async (copy: Versus['copies'][number]) => {
      const params = { path: { run_id: copy.id } }
      taken(await api.DELETE('/api/runs/{run_id}', { params }))
      return copy
    },
    onSuccess: async (copy) => {
      await changed()
      say({
        text: `“${copy.label}” was deleted.`,
        undo: async () => {
          taken(await api.POST('/api/runs/{run_id}/restored', { params: { path: { run_id: copy.id } } }))
          await changed()
        },
      })
    },
  })
  if (copies.length === 0) return null
  return (
    <ul aria-label="copies" className="mt-2 text-sm">
      {copies.map((c) => (
        <li key={c.id} className="flex items-baseline gap-3">
          <span>{c.said}.</span>
          <button
            className="cursor-pointer whitespace-nowrap underline underline-offset-2"
            disabled={removed.isPending}
            onClick={() => {
              removed.mutate(c)
            }}
          >
            Delete the copy
          </button>
        </li>
      ))}
      {removed.isError && <ProblemLine error={removed.error} />}
    </ul>
  )
}
