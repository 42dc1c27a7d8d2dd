import { useMemo, useState } from 'react'
import { Link, useNavigate, useParams, useSearchParams } from 'react-router'
import { useImprove } from '../../api/useImprove'
import { usePlan, usePlanChanges, usePlans, type Plan } from '../../api/usePlans'
import { ProblemLine } from '../../ui/Problem'
import { useSay } from '../../ui/Undo'
import { useKeys } from '../../ui/useKeys'
import { versusPath } from '../../shared/paths'
import { Lanes } from './Lanes'
import { PlanList } from './PlanList'
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
  if (plans.data?.length === 0 && !id) return <Empty />
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
  const listed = query.has('list')
  const toggleList = () => {
    setQuery(listed ? {} : { list: '' }, { replace: true })
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
    <article className="px-6 pt-4 pb-8">
      <div className="flex items-center gap-3">
        <div className="min-w-0 flex-1">
          <h1 className="line-clamp-2 text-2xl leading-tight font-bold" title={plan.question}>
            {plan.question}
          </h1>
          <p className="soft truncate text-sm" title={plan.card_said}>
            {plan.card.name} · {plan.findings.said} · {ORDER_SAID[plan.choice.order ?? 'randomised']}, seed {plan.choice.seed} ·{' '}
            <OtherPlans plan={plan} />
          </p>
        </div>
        {made.length > 1 && (
          <Link className="btn btn-sm btn-outline border-base-300 shrink-0 font-normal" to={versusPath(made)}>
            Compare its runs
          </Link>
        )}
        <Menu plan={plan} listed={listed} onList={toggleList} onReplan={replan} />
        {plan.next && (
          <button className="btn btn-primary btn-sm shrink-0" onClick={doNext}>
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
      <Shows plan={plan} />
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
      <div className="border-base-300 mt-2 grid grid-cols-3 gap-8 border-t pt-2 text-sm max-lg:grid-cols-1">
        <section aria-label="when it is over">
          <h2 className="text-base font-bold">
            {plan.schedule.over_at ? `Over ${momentAt(plan.schedule.over_at, zone)}` : 'Over'}{' '}
            <span className="soft text-xs font-normal">times in {zone}</span>
          </h2>
          <p>
            {plan.schedule.said} {plan.schedule.pace}
          </p>
          {looking !== null && (
            <p className="soft flex items-center gap-2" role="status">
              looking for a shorter one
              <progress className="progress w-28" value={looking} max={1} aria-label="looking for a shorter schedule" />
            </p>
          )}
          <p className="soft">{plan.findings.why_order}</p>
        </section>
        <section aria-label="tonight">
          <h2 className="text-base font-bold">Tonight</h2>
          <ul>
            {plan.tonight.slice(0, EVENTS_SHOWN).map((e) => (
              <li key={e.at + e.said}>
                <span className="inline-block w-11 tabular-nums">{clockAt(e.at, zone)}</span>
                {e.said}
              </li>
            ))}
          </ul>
          {plan.tonight.length > EVENTS_SHOWN && <p className="soft">and {plan.tonight.length - EVENTS_SHOWN} more: see the list.</p>}
          <p>{plan.after_tonight}</p>
          {plan.carried_over.slice(0, 1).map((w) => (
            <p key={w} className="soft mt-1">
              {w}
            </p>
          ))}
          {plan.carried_over.length > 1 && (
            <details className="soft">
              <summary className="cursor-pointer">{plan.carried_over.length - 1} more chargers still warm</summary>
              {plan.carried_over.slice(1).map((w) => (
                <p key={w}>{w}</p>
              ))}
            </details>
          )}
        </section>
        <section aria-label="what it costs the phones">
          <h2 className="text-base font-bold">Wear on the phones</h2>
          <p>{plan.findings.cost}</p>
          <p className="soft">
            Drains take{' '}
            {Object.entries(plan.findings.drains)
              .map(([phone, minutes]) => `${phone}: ${minutes.toFixed(0)} min`)
              .join(', ')}
            {Object.values(plan.findings.learned).some(Boolean) ? ', learned from earlier ones.' : ', forecast; learned as they happen.'}
          </p>
        </section>
      </div>
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

const EVENTS_SHOWN = 7
const ORDER_SAID = { randomised: 'order drawn', balanced: 'order balanced', 'as listed': 'as listed' }

const short = (said: string) => (said.length > 44 ? `${said.slice(0, 43)}…` : said).replace(/^./, (c) => c.toLowerCase())

/** When something is due: by the clock today, with the day otherwise. */
function when(at: string, plan: Plan): string {
  const zone = plan.wishes.zone ?? 'UTC'
  const [due, now] = [new Date(at).getTime(), new Date(plan.now).getTime()]
  if (due <= now + 60_000) return 'now'
  return due - now < 18 * 3_600_000 ? clockAt(at, zone) : momentAt(at, zone)
}

/** What the plan can show, and what it mixes up. */
function Shows({ plan }: { plan: Plan }) {
  const [first, ...more] = plan.findings.warnings
  return (
    <div className="mt-3 grid grid-cols-2 gap-8 text-sm max-lg:grid-cols-1">
      <p>
        <Bold text={plan.findings.shows} /> {plan.findings.one_more && <Bold text={plan.findings.one_more} />}
      </p>
      <div className="soft">
        {first ?? 'Nothing is mixed up: each thing is varied apart from the others.'}
        {more.length > 0 && (
          <details>
            <summary className="cursor-pointer">
              {more.length} more to be careful about
            </summary>
            <ul className="space-y-1">
              {more.map((w) => (
                <li key={w}>{w}</li>
              ))}
            </ul>
          </details>
        )}
      </div>
    </div>
  )
}

/** A sentence with its figures in bold. */
export function Bold({ text }: { text: string }) {
  return (
    <>
      {text.split(/(\d+ (?:min|h|days?))/).map((part, i) => (i % 2 ? <b key={part + String(i)}>{part}</b> : part))}
    </>
  )
}

function OtherPlans({ plan }: { plan: Plan }) {
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

interface MenuProps {
  plan: Plan
  listed: boolean
  onList: () => void
  onReplan: () => void
}

function Menu({ plan, listed, onList, onReplan }: MenuProps) {
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

function Empty() {
  const deleted = usePlans(true)
  const changes = usePlanChanges()
  return (
    <div className="px-6 pt-4">
      <h1 className="text-2xl font-bold">Plan</h1>
      <div className="border-base-300 mt-6 max-w-xl rounded border border-dashed p-6">
        <p className="text-lg font-semibold">Write the question, before the first run.</p>
        <p className="soft mt-1">
          For example: which bedside disc is fastest to 80 % on our three phones, and stays under 43 °C? Then pick a method,
          tick phones and chargers, and see what the runs can show, and when each can happen.
        </p>
        <Link to="/plan/new" className="btn btn-primary btn-sm mt-3">
          New plan
        </Link>
        <Link to="/plan/cards" className="btn btn-ghost btn-sm mt-3 ml-2 font-normal">
          Method cards
        </Link>
      </div>
      {deleted.data?.map((p) => (
        <p key={p.id} className="soft mt-3 text-sm">
          deleted: {p.question}{' '}
          <button
            className="btn btn-ghost btn-xs font-normal"
            onClick={() => {
              changes.restore.mutate(p.id)
            }}
          >
            restore
          </button>
        </p>
      ))}
    </div>
  )
}
