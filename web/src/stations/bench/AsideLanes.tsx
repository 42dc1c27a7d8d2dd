import { useMutation } from '@tanstack/react-query'
import { benchApi, type Bench } from '../../api/bench'
import { ProblemLine } from '../../ui/Problem'
import { clockAt } from '../../ui/times'

/** Lanes that are open and cannot be shown: the others go on, and these can be ended. */
export function AsideLanes({ aside, zone }: { aside: Bench['aside']; zone: string }) {
  const end = useMutation({
    mutationFn: (id: string) => benchApi.end(id, { outcome: 'void', reason: 'it could not be shown' }),
  })
  if (aside.length === 0) return null
  return (
    <div role="alert" className="border-warning bg-accent text-accent-content mt-2 border-l-4 px-3 py-1.5 text-sm">
      {aside.map((lane) => (
        <div key={lane.id} className="flex flex-wrap items-center gap-x-3 gap-y-1">
          <span title={lane.why}>
            <b>Lane {lane.name} cannot be shown, and no alarm is given for it</b>, since {clockAt(lane.since, zone)}. Look at its phone yourself.
          </span>
          <button
            className="btn btn-xs"
            disabled={end.isPending}
            onClick={() => {
              end.mutate(lane.id)
            }}
          >
            End lane {lane.name} as void
          </button>
        </div>
      ))}
      {end.isError && <ProblemLine error={end.error} />}
    </div>
  )
}
