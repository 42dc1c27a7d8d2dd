import { usePlanChanges, type Plan } from '../../api/usePlans'
import { Strong } from '../../ui/text'
import { useSay } from '../../ui/Undo'

/** Whether the runs made so far answer the question, and what to do with the rest. */
export function PlanAnswered({ plan }: { plan: Plan }) {
  const changes = usePlanChanges()
  const say = useSay()
  const { stopping, counts } = plan
  if (!stopping) return null
  const planned = counts.planned ?? 0
  const set = (letGo: boolean) => {
    changes.rest.mutate({ id: plan.id, letGo }, {
      onSuccess: () => {
        say({
          text: letGo ? 'The rest of the runs is let go.' : 'The runs are planned again.',
          undo: () => changes.rest.mutateAsync({ id: plan.id, letGo: !letGo }),
        })
      },
    })
  }
  return (
    <section className="mt-3 flex flex-wrap items-center gap-x-4 gap-y-1 text-sm" aria-label="is it answered">
      <p className="max-w-3xl">
        <Strong text={stopping.said} />
      </p>
      {stopping.answered && planned > 0 && (
        <button className="btn btn-primary btn-sm font-normal" disabled={changes.rest.isPending} onClick={() => { set(true) }}>
          Let the rest go
        </button>
      )}
      {stopping.let_go > 0 && (
        <button className="btn btn-outline border-base-300 btn-sm font-normal" disabled={changes.rest.isPending} onClick={() => { set(false) }}>
          Take up the {stopping.let_go === 1 ? 'run' : `${String(stopping.let_go)} runs`} again
        </button>
      )}
      <details className="soft">
        <summary className="cursor-pointer">how that is known</summary>
        <p className="max-w-3xl">
          Asked after every run, each pair of chargers may spend a little of the 5 % error: little early, most at the end.
          A pair stays open while the runs to come could still show a difference. “No difference shown” does not mean that
          they are equal.
        </p>
      </details>
    </section>
  )
}
