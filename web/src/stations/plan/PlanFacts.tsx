import type { Plan } from '../../api/usePlans'
import { clockAt, momentAt } from '../../ui/times'

const EVENTS_SHOWN = 7

/** When a plan is over, what happens tonight, and what it costs the phones. */
export function PlanFacts({ plan, looking }: { plan: Plan; looking: number | null }) {
  const zone = plan.wishes.zone ?? 'UTC'
  return (
    <div className="border-base-300 mt-2 grid grid-cols-3 gap-8 border-t pt-2 text-sm max-lg:grid-cols-1">
      <section aria-label="when it is over">
        <h2 className="text-base font-bold">
          {plan.schedule.over_at ? `Ends ${momentAt(plan.schedule.over_at, zone)}` : 'Its end'}{' '}
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
  )
}
