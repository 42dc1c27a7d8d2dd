import { useMemo, useState } from 'react'
import { Link, useNavigate, useParams, useSearchParams } from 'react-router'
import { useImprove } from '../../api/useImprove'
import { usePlan, usePlanChanges, usePlans, type Plan } from '../../api/usePlans'
import { ProblemLine } from '../../ui/Problem'
import { useSay } from '../../ui/Undo'
import { useKeys } from '../../ui/useKeys'
import { useNarrow } from '../../ui/useNarrow'
import { versusPath } from '../../shared/paths'
import { Lanes } from './Lanes'
import { NoPlan } from './NoPlan'
import { PlanFacts } from './PlanFacts'
import { PlanList } from './PlanList'
import { OtherPlans, PlanMenu } from './PlanMenu'
import { PlanAnswered } from './PlanAnswered'
import { PlanShows } from './PlanShows'
import { SlotPanel } from './SlotPanel'
import { clockAt, momentAt } from '../../ui/times'

/** The plan in hand: what it can show, its lanes over the days, what to do next. */
export function PlanPage() {
  const { id } = useParams()
  const navigate = useNavigate()
  const plans = usePlans()
  const wanted = id ?? plans.data?.[0]?.id
  const plan = usePlan(wanted)
  useKeys(useMemo(() => ({ p: () => void navigate('/plan/new') }), [navigate]))
  if (plans.isError || plan.isError)
    return (
      <div className="p-6">
        <ProblemLine error={plans.error ?? plan.error} />
      </div>
    )
  if (plans.data?.length === 0 && !id) return <NoPlan />
  if (!plan.data) return <p className="soft p-6">Reading the plan …</p>
  return <Shown key={plan.data.id} plan={plan.data} />
}

function Shown({ plan }: { plan: Plan }) {
  const navigate = useNavigate()
  const say = useSay()
  const changes = usePlanChanges()
  const [query, setQuery] = useSearchParams()
  const [chosen, setChosen] = useState<string | null>(null)
  const looking = useImprove(plan)
  const zone = plan.wishes.zone ?? 'UTC'
  const narrow = useNarrow()
  const asked = narrow ? 'lanes' : 'list'
  // On a phone the plan is a list first.
  const listed = query.has(asked) !== narrow
  const toggleList = () => {
    setQuery(query.has(asked) ? {} : { [asked]: '' }, { replace: true })
  }
  const doNext = () => {
    if (plan.next) setChosen(plan.next.slot)
  }
  const replan = () => {
    changes.replan.mutate(plan.id, {
      onSuccess: () => {
        say({ text: 'The rest is rescheduled from now.' })
      },
    })
  }
  useKeys({
    d: doNext,
    l: toggleList,
    e: () => void navigate(`/plan/${plan.id}/change`),
    Escape: () => {
      setChosen(null)
    },
  })
  const slot = plan.slots.find((s) => s.id === chosen)
  const late = plan.slots.filter((s) => s.late_min > 0)
  const made = plan.slots.flatMap((s) => (s.run === null ? [] : [s.run]))
  return (
    <article className="px-6 pt-4 pb-8 max-sm:px-3">
      <div className="flex items-center gap-3 max-lg:flex-wrap">
        <div className="min-w-0 flex-1 max-lg:order-first max-lg:basis-full">
          <h1 className="line-clamp-2 text-2xl leading-tight font-bold" title={plan.question}>
            {plan.question}
          </h1>
          <p className="soft text-sm" title={plan.card_said}>
            {plan.card.name} · {plan.findings.said} · {ORDER_SAID[plan.choice.order ?? 'randomised']}, seed {plan.choice.seed} ·{' '}
            <OtherPlans plan={plan} />
          </p>
        </div>
        {made.length > 1 && (
          <Link className="btn btn-sm btn-outline border-base-300 shrink-0 font-normal" to={versusPath(made)}>
            Compare its runs
          </Link>
        )}
        <PlanMenu plan={plan} listed={listed} onList={toggleList} onReplan={replan} />
        {plan.next && (
          <button className="btn btn-primary btn-sm shrink-0 max-lg:order-first max-sm:w-full" onClick={doNext}>
            Next: {short(plan.next.said)}, {when(plan.next.at, plan)}
          </button>
        )}
      </div>
      {(changes.replan.isError || changes.remove.isError) && <ProblemLine error={changes.replan.error ?? changes.remove.error} />}
      {plan.reminder && (
        <p className="border-primary mt-3 border-l-4 px-3 py-1">
          <b>All done.</b> {plan.reminder}
        </p>
      )}
      {late.length > 0 && (
        <p role="status" className="border-warning text-warning mt-3 flex items-center gap-3 border-l-4 px-3 py-1 text-sm">
          Late: {late.map((s) => s.label).join(', ')}.
          <button className="btn btn-outline btn-xs font-normal" disabled={changes.replan.isPending} onClick={replan}>
            Reschedule the rest from now
          </button>
        </p>
      )}
      <PlanAnswered plan={plan} />
      <PlanShows plan={plan} />
      <div className="mt-1">
        {listed ? <PlanList plan={plan} chosen={chosen} onChoose={setChosen} /> : <Lanes plan={plan} chosen={chosen} onChoose={setChosen} />}
      </div>
      {slot && (
        <SlotPanel
          key={slot.id}
          plan={plan}
          slot={slot}
          onClose={() => {
            setChosen(null)
          }}
        />
      )}
      <PlanFacts plan={plan} looking={looking} />
      {plan.changes.length > 0 && (
        <details className="mt-3 text-sm">
          <summary className="soft cursor-pointer">rescheduled: {plan.changes.length}</summary>
          <ul>
            {plan.changes.map((c) => (
              <li key={c.at + c.why}>
                {momentAt(c.at, zone)}: {c.why}
                {c.by && <span className="soft"> ({c.by})</span>}
              </li>
            ))}
          </ul>
        </details>
      )}
    </article>
  )
}

const ORDER_SAID = { randomised: 'order drawn', balanced: 'order balanced', 'as listed': 'as listed' }

const short = (said: string) => (said.length > 44 ? `${said.slice(0, 43)}…` : said).replace(/^./, (c) => c.toLowerCase())

/** When something is due: by the clock today, with the day otherwise. */
function when(at: string, plan: Plan): string {
  const zone = plan.wishes.zone ?? 'UTC'
  const [due, now] = [new Date(at).getTime(), new Date(plan.now).getTime()]
  if (due <= now + 60_000) return 'now'
  return due - now < 18 * 3_600_000 ? clockAt(at, zone) : momentAt(at, zone)
}
