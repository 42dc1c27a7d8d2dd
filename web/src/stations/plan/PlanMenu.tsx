import { Link, useNavigate } from 'react-router'
import { usePlanChanges, usePlans, type Plan } from '../../api/usePlans'
import { FindingOfPlan } from '../../shared/FindingOfPlan'
import { useSay } from '../../ui/Undo'

/** The way to another plan, or to a new one. */
export function OtherPlans({ plan }: { plan: Plan }) {
  const navigate = useNavigate()
  const plans = usePlans()
  const others = plans.data?.filter((p) => p.id !== plan.id) ?? []
  if (!others.length)
    return (
      <Link className="underline underline-offset-2" to="/plan/new">
        new plan
      </Link>
    )
  return (
    <select
      className="select select-xs w-40"
      aria-label="other plans"
      value=""
      onChange={(e) => void navigate(e.target.value)}
    >
      <option value="">other plans</option>
      <option value="/plan/new">new plan …</option>
      {others.map((p) => (
        <option key={p.id} value={`/plan/${p.id}`}>
          {p.question}
        </option>
      ))}
    </select>
  )
}

interface Props {
  plan: Plan
  listed: boolean
  onList: () => void
  onReplan: () => void
}

/** What can be done with a plan as a whole. */
export function PlanMenu({ plan, listed, onList, onReplan }: Props) {
  const navigate = useNavigate()
  const say = useSay()
  const changes = usePlanChanges()
  const plain = 'btn btn-outline border-base-300 btn-sm font-normal'
  const remove = () => {
    changes.remove.mutate(plan.id, {
      onSuccess: () => {
        say({ text: 'The plan is deleted.', undo: () => changes.restore.mutateAsync(plan.id) })
        void navigate('/plan')
      },
    })
  }
  return (
    <div className="flex shrink-0 gap-2">
      <button className={plain} aria-pressed={listed} onClick={onList}>
        {listed ? 'Lanes' : 'List'}
      </button>
      <FindingOfPlan plan={plan} className={plain} />
      <a className={plain} href={`/api/plans/${plan.id}/calendar.ics`} download>
        Calendar
      </a>
      <button className={plain} popoverTarget="plan-more" aria-label="more for this plan">
        More
      </button>
      <div id="plan-more" popover="auto" className="bg-base-100 text-base-content border-base-content m-auto border p-4 text-sm shadow-lg">
        <div className="flex w-64 flex-col items-stretch gap-2">
          <Link className={plain} to={`/plan/${plan.id}/change`}>
            Change the plan
          </Link>
          <button className={plain} onClick={onReplan} popoverTarget="plan-more">
            Reschedule the rest from now
          </button>
          <a className={plain} href={`/api/plans/${plan.id}/schedule.csv`} download>
            Schedule as CSV
          </a>
          <Link className={plain} to="/plan/new">
            New plan
          </Link>
          <Link className={plain} to="/plan/cards">
            Method cards
          </Link>
          <button className={plain} onClick={remove}>
            Delete this plan
          </button>
        </div>
      </div>
    </div>
  )
}
