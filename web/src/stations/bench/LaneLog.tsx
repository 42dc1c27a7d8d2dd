import { queries } from '../../api/queries'
import { useState } from 'react'
import { useMutation, useQuery } from '@tanstack/react-query'
import { benchApi, laneNow, type Lane } from '../../api/bench'
import { ProblemLine } from '../../ui/Problem'
import { clock } from '../../ui/format'
import { apart } from '../../ui/times'
import { Wide } from '../../ui/Wide'

const FIXED = new Set(['percent', 'celsius', 'meter', 'phone watts', 'socket watts', 'note'])

/** The log of a lane, the latest first: entries can be corrected; first values and what was undone stay readable. */
export function LaneLog({ lane }: { lane: Lane }) {
  const { view } = lane
  const newest = view.entries[0]
  const log = useQuery(queries.laneLog(view.id, [newest?.id, newest?.said, newest?.undone, view.alarms.length, view.state]))
  const [fixing, setFixing] = useState<{ id: string; line: string } | null>(null)
  const fix = useMutation({
    mutationFn: ({ id, line }: { id: string; line: string }) => benchApi.fix(view.id, id, line),
    onSuccess: () => {
      setFixing(null)
      void log.refetch()
    },
  })
  const now = laneNow(lane)
  return (
    <div className="border-base-300 mt-1 max-h-56 overflow-auto border px-3 py-1">
      <Wide least={26} className="w-full text-sm" aria-label={`log of lane ${view.name}`}>
        <tbody>
          {[...(log.data ?? [])].reverse().map((e) => (
            <tr key={e.id} className={`border-base-300 border-b last:border-0 ${e.undone ? 'line-through opacity-60' : ''}`}>
              <td className="reading soft w-16 py-0.5 text-xs">{view.placed_s === null ? apart(now - e.t_s) : clock((e.t_s - view.placed_s) / 60)}</td>
              <td>
                {fixing?.id === e.id ? (
                  <form
                    className="flex gap-2"
                    onSubmit={(event) => {
                      event.preventDefault()
                      fix.mutate(fixing)
                    }}
                  >
                    <input
                      className="input input-xs reading w-48"
                      autoFocus
                      aria-label={`right value of ${e.said}`}
                      value={fixing.line}
                      onChange={(event) => {
                        setFixing({ id: e.id, line: event.target.value })
                      }}
                      onKeyDown={(event) => {
                        if (event.key === 'Escape') setFixing(null)
                      }}
                    />
                    <button className="btn btn-primary btn-xs">Correct</button>
                  </form>
                ) : (
                  <>
                    {e.said}
                    {e.first && <span className="soft"> (first: {e.first})</span>}
                  </>
                )}
              </td>
              <td className="soft w-28 truncate text-xs">{e.by}</td>
              <td className="w-20 text-right">
                {FIXED.has(e.kind) && !e.undone && fixing?.id !== e.id && (
                  <button
                    className="btn btn-ghost btn-xs font-normal"
                    aria-label={`correct ${e.said}`}
                    onClick={() => {
                      setFixing({ id: e.id, line: e.line.split(' ').slice(1).join(' ') })
                    }}
                  >
                    correct
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </Wide>
      {log.data?.length === 0 && <p className="soft py-1">Nothing is logged yet.</p>}
      {(fix.error ?? log.error) && <ProblemLine error={fix.error ?? log.error} />}
    </div>
  )
}
