import { useMutation } from '@tanstack/react-query'
import { useChanged } from '../../api/useChanged'
import { useEffect, useRef, useState } from 'react'
import { api, taken, type Shape } from '../../api/client'
import { degreesText } from '../../ui/format'
import { ProblemLine } from '../../ui/Problem'
import { useSettings, type Degrees } from '../../reader/settings'
import { useSay } from '../../ui/Undo'
import { caseOf, notNumbers, RunFields, type Stated } from './RunFields'
import { ShiftFields } from './ShiftFields'

const shown = (value: number | null | undefined) => value?.toString() ?? ''

function statedOf(run: Shape['RunShape'], degrees: Degrees): Stated {
  const c = run.case
  return {
    label: run.label,
    factors: run.factors,
    capacity_mah: shown(c.capacity_mah),
    nominal_v: shown(c.nominal_v),
    battery_health: c.battery_health ? (c.battery_health * 100).toFixed(0) : '',
    claimed_w: shown(c.claimed_w),
    room: c.ambient_c === null || c.ambient_c === undefined ? '' : degreesText(c.ambient_c, degrees),
    interval_min: shown(c.interval_min),
  }
}

const checkinText = (run: Shape['RunShape']) =>
  run.checkins.map((c) => `${String(Math.round(c.minute * 100) / 100)} ${String(c.percent)}`).join('\n')

/** Putting right what was stated or read; the first values are kept, and the step can be undone. */
export function CorrectRun({ run, onClose }: { run: Shape['RunShape']; onClose: () => void }) {
  const dialog = useRef<HTMLDialogElement>(null)
  const changed = useChanged('run')
  const say = useSay()
  const { degrees } = useSettings()
  const [before] = useState(() => statedOf(run, degrees))
  const [stated, setStated] = useState(before)
  const [checkinsBefore] = useState(() => checkinText(run))
  const [checkins, setCheckins] = useState(checkinsBefore)
  useEffect(() => {
    dialog.current?.showModal()
  }, [])
  const put = async (wanted: Stated, text: string, textNow: string, revision: number) => {
    const params = { path: { run_id: run.id } }
    const body = { revision, label: wanted.label, factors: wanted.factors, case: caseOf(wanted, degrees, run.case) }
    let row = taken(await api.PATCH('/api/runs/{run_id}', { params, body }))
    if (text !== textNow)
      row = taken(
        await api.PUT('/api/runs/{run_id}/checkins', {
          params,
          body: { revision: row.revision, text, reference: 'after placing' },
        }),
      )
    await changed()
    return row.revision
  }
  const save = useMutation({
    mutationFn: () => put(stated, checkins, checkinsBefore, run.revision),
    onSuccess: (revision) => {
      say({ text: 'Corrected and read again.', undo: () => put(before, checkinsBefore, checkins, revision) })
      onClose()
    },
  })
  return (
    <dialog ref={dialog} className="modal" aria-label="correct this run" onClose={onClose}>
      <div className="modal-box max-w-4xl">
        <h2 className="mb-2 text-lg font-bold">Correct this run</h2>
        <form
          onSubmit={(e) => {
            e.preventDefault()
            save.mutate()
          }}
        >
          <div className="grid grid-cols-[1fr_13rem] gap-6">
            <RunFields stated={stated} onChange={setStated} />
            <label className="flex flex-col text-sm">
              <span className="soft text-xs">check-ins: minutes after placing, %</span>
              <textarea
                className="textarea reading h-64 w-full leading-snug"
                value={checkins}
                onChange={(e) => {
                  setCheckins(e.target.value)
                }}
              />
            </label>
          </div>
          <ShiftFields run={run} onShifted={onClose} />
          {save.isError && <ProblemLine error={save.error} />}
          <div className="modal-action">
            <button type="button" className="btn btn-sm" onClick={() => dialog.current?.close()}>
              Cancel
            </button>
            <button className="btn btn-primary btn-sm" disabled={notNumbers(stated).length > 0 || save.isPending}>
              Save and read again
            </button>
          </div>
        </form>
      </div>
    </dialog>
  )
}
