import { useMutation } from '@tanstack/react-query'
import { useChanged } from '../../api/useChanged'
import { api, taken, type Shape } from '../../api/client'
import { useSay } from '../../ui/Undo'

type Decision = Omit<Shape['NewDecision'], 'revision' | 'why'> & { why?: string }

/** Deciding otherwise about a dip or a phase of a run, and undoing that. */
export function useDecide(run: Shape['RunShape']) {
  const changed = useChanged('run')
  const say = useSay()
  const refresh = changed
  const aside = async (id: string, revision: number, undone: boolean) => {
    const path = { run_id: run.id, decision_id: id }
    taken(await api.PUT('/api/runs/{run_id}/decisions/{decision_id}', { params: { path }, body: { revision, aside: undone } }))
    await refresh()
  }
  const decide = useMutation({
    mutationFn: async (decision: Decision) =>
      taken(
        await api.POST('/api/runs/{run_id}/decisions', {
          params: { path: { run_id: run.id } },
          body: { why: '', ...decision, revision: run.revision },
        }),
      ),
    onSuccess: async (row) => {
      await refresh()
      say({
        text: 'The run was read again with your decision.',
        undo: async () => {
          const now = taken(await api.GET('/api/runs/{run_id}', { params: { path: { run_id: run.id } } }))
          const last = now.judged?.decisions.findLast((d) => !d.undone)
          if (last) await aside(last.id, row.revision, true)
        },
      })
    },
  })
  const change = useMutation({
    mutationFn: ({ id, undone }: { id: string; undone: boolean }) => aside(id, run.revision, undone),
  })
  return { decide, change }
}
