import { useEffect, useRef, useState } from 'react'
import { useKitChanges, type Kit } from '../../api/useKit'
import { useRunList } from '../../api/useRuns'
import { ProblemLine } from '../../ui/Problem'
import { useSay } from '../../ui/Undo'

interface Props {
  phone: Kit
  onClose: () => void
}

/** A phone's figures from one measured run, with how well they fit, before they are kept. */
export function FitPhone({ phone, onClose }: Props) {
  const dialog = useRef<HTMLDialogElement>(null)
  const say = useSay()
  const changes = useKitChanges()
  const { rows: known } = useRunList({ kind: 'measured', phone: phone.label, limit: 200 })
  const [run, setRun] = useState('')
  useEffect(() => {
    dialog.current?.showModal()
  }, [])
  const wanted = run || known[0]?.id || ''
  const result = changes.fit.data
  return (
    <dialog ref={dialog} className="modal" aria-label={`fit ${phone.label} to a run`} onClose={onClose}>
      <div className="modal-box max-w-xl text-sm">
        <h2 className="mb-1 text-lg font-bold">Fit {phone.label} to a measured run</h2>
        <p className="soft mb-3">
          Forecasts and rehearsals of this phone then use what the run showed, in place of the presets for its size.
        </p>
        {known.length === 0 ? (
          <p>No measured run of this phone is stored. Read one under Runs, with this phone's label.</p>
        ) : (
          <form
            className="flex gap-2"
            onSubmit={(e) => {
              e.preventDefault()
              changes.fit.mutate({ id: phone.id, run: wanted, keep: false })
            }}
          >
            <select
              className="select select-sm grow"
              aria-label="measured run"
              value={wanted}
              onChange={(e) => {
                setRun(e.target.value)
                changes.fit.reset()
              }}
            >
              {known.map((r) => (
                <option key={r.id} value={r.id}>
                  {r.label}
                  {r.factors.airflow ? `, ${r.factors.airflow}` : ''}
                </option>
              ))}
            </select>
            <button className="btn btn-sm" disabled={changes.fit.isPending}>
              {changes.fit.isPending ? 'Fitting …' : 'Try'}
            </button>
          </form>
        )}
        {changes.fit.isError && <ProblemLine error={changes.fit.error} />}
        {result && (
          <div className="mt-3">
            <p>
              <b>The fitted phone {result.said}.</b>
              {!result.heat_fitted && ' The run has too little heat to fit to: body and temperatures stay at their presets.'}
            </p>
            <table className="mt-2">
              <tbody>
                {result.figures.map((g) => (
                  <tr key={g.what}>
                    <th scope="row" className="soft pr-4 text-left font-normal">
                      {g.what}
                    </th>
                    <td>{g.value}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        )}
        <div className="modal-action">
          {phone.fit && (
            <button
              className="btn btn-ghost btn-sm mr-auto"
              onClick={() => {
                changes.dropFit.mutate(phone.id, {
                  onSuccess: () => {
                    say({ text: `${phone.label} is back at the presets.` })
                    onClose()
                  },
                })
              }}
            >
              Back to the presets
            </button>
          )}
          <button className="btn btn-ghost btn-sm" onClick={() => dialog.current?.close()}>
            Cancel
          </button>
          {result && (
            <button
              className="btn btn-primary btn-sm"
              onClick={() => {
                changes.fit.mutate(
                  { id: phone.id, run: wanted, keep: true },
                  {
                    onSuccess: () => {
                      say({ text: `${phone.label} is fitted.`, undo: () => changes.dropFit.mutateAsync(phone.id) })
                      onClose()
                    },
                  },
                )
              }}
            >
              Keep
            </button>
          )}
        </div>
      </div>
    </dialog>
  )
}
