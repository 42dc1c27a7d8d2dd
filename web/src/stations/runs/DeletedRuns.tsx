import { useMutation } from '@tanstack/react-query'
import { useChanged } from '../../api/useChanged'
import { useRef } from 'react'
import { api, taken } from '../../api/client'
import { useDeletedRuns } from '../../api/useDeletedRuns'
import { ProblemLine } from '../../ui/Problem'
import { Simulated } from '../../shared/Simulated'

/** A way back to runs that were deleted, as long as there are any. */
export function DeletedRuns() {
  const deleted = useDeletedRuns()
  const changed = useChanged('run')
  const dialog = useRef<HTMLDialogElement>(null)
  const back = useMutation({
    mutationFn: async (id: string) =>
      taken(await api.POST('/api/runs/{run_id}/restored', { params: { path: { run_id: id } } })),
    onSuccess: changed,
  })
  if (!deleted.data?.length) return null
  return (
    <>
      <button className="soft cursor-pointer text-sm underline" onClick={() => dialog.current?.showModal()}>
        {deleted.data.length} deleted
      </button>
      <dialog ref={dialog} className="modal" aria-label="deleted runs">
        <div className="modal-box max-w-xl">
          <h2 className="mb-2 text-lg font-bold">Deleted runs</h2>
          <ul className="divide-base-300 max-h-96 divide-y overflow-auto text-sm">
            {deleted.data.map((run) => (
              <li key={run.id} className="flex items-center gap-3 py-1.5">
                <span className="min-w-0 grow truncate" title={run.label}>
                  {run.simulated && <Simulated />}
                  {run.label}
                </span>
                <span className="soft whitespace-nowrap">
                  {new Date(run.at).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })}
                  {run.by && `, ${run.by}`}
                </span>
                <button
                  className="btn btn-xs"
                  aria-label={`restore ${run.label}`}
                  onClick={() => {
                    back.mutate(run.id)
                  }}
                >
                  Restore
                </button>
              </li>
            ))}
          </ul>
          {back.isError && <ProblemLine error={back.error} />}
          <form method="dialog" className="modal-action">
            <button className="btn btn-sm">Close</button>
          </form>
        </div>
      </dialog>
    </>
  )
}
