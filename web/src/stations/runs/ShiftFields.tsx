import { useMutation } from '@tanstack/react-query'
import { useChanged } from '../../api/useChanged'
import { useState } from 'react'
import { api, taken, type Shape } from '../../api/client'
import { ProblemLine } from '../../ui/Problem'
import { useSay } from '../../ui/Undo'

type What = Shape['Shifted']['what']

/** Minutes as they are typed: 5, -12,5, 1:30; null for anything else. */
function minutesOf(typed: string): number | null {
  const match = /^\s*([+-−]?)\s*(?:(\d{1,3}):(\d{2})|(\d{1,5}(?:[.,]\d+)?))\s*$/.exec(typed)
  if (!match) return null
  const size = match[4] === undefined ? Number(match[2]) * 60 + Number(match[3]) : Number(match[4].replace(',', '.'))
  return size === 0 ? null : match[1] === '' || match[1] === '+' ? size : -size
}

/** Check-ins, temperatures or both, put later or earlier by a stated time: they were on another clock. */
export function ShiftFields({ run, onShifted }: { run: Shape['RunShape']; onShifted: () => void }) {
  const changed = useChanged('run')
  const say = useSay()
  const heat = run.summary.hottest_c !== null
  const choices: What[] = [...(run.checkins.length > 0 ? ['check-ins' as const] : []), ...(heat ? ['temperatures' as const] : []), ...(heat && run.checkins.length > 0 ? ['both' as const] : [])]
  const [what, setWhat] = useState<What>(choices.at(-1) ?? 'check-ins')
  const [typed, setTyped] = useState('')
  const minutes = minutesOf(typed)
  const shifted = async (by: number, revision: number) => {
    const row = taken(await api.POST('/api/runs/{run_id}/shifted', { params: { path: { run_id: run.id } }, body: { revision, what, minutes: by } }))
    await changed()
    return row.revision
  }
  const shift = useMutation({
    mutationFn: (by: number) => shifted(by, run.revision),
    onSuccess: (revision, by) => {
      say({ text: `${what === 'both' ? 'Check-ins and temperatures' : what === 'check-ins' ? 'Check-ins' : 'Temperatures'} moved by ${String(by)} min.`, undo: () => shifted(-by, revision) })
      onShifted()
    },
  })
  if (choices.length === 0) return null
  return (
    <fieldset className="border-base-300 mt-3 flex flex-wrap items-center gap-3 border-t pt-3 text-sm" aria-label="put on another clock">
      <span>On the wrong clock? Move</span>
      <select
        className="select select-sm w-40"
        aria-label="what is moved"
        value={what}
        onChange={(e) => {
          setWhat(e.target.value as What)
        }}
      >
        {choices.map((c) => (
          <option key={c} value={c}>
            {c === 'both' ? 'both of them' : c}
          </option>
        ))}
      </select>
      <span>by</span>
      <span className="input input-sm w-28">
        <input
          className="reading min-w-0 grow"
          aria-label="by how much, minutes"
          placeholder="-5 or 1:30"
          value={typed}
          onChange={(e) => {
            setTyped(e.target.value)
          }}
        />
        <span className="soft">min</span>
      </span>
      <button
        type="button"
        className="btn btn-sm btn-outline font-normal"
        disabled={minutes === null || shift.isPending}
        onClick={() => {
          if (minutes !== null) shift.mutate(minutes)
        }}
      >
        Move
      </button>
      <span className="soft text-xs">later where positive, earlier where negative</span>
      {shift.isError && <ProblemLine error={shift.error} />}
    </fieldset>
  )
}
