import type { Plan } from '../../api/usePlans'
import { Strong } from '../../ui/text'

/** What the plan can show, and what it mixes up. */
export function PlanShows({ plan }: { plan: Plan }) {
  const [first, ...more] = plan.findings.warnings
  return (
    <div className="mt-3 grid grid-cols-2 gap-8 text-sm max-lg:grid-cols-1">
      <p>
        <Strong text={plan.findings.shows} /> {plan.findings.one_more && <Strong text={plan.findings.one_more} />}
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
