import { Link } from 'react-router'
import { usePlanChanges, usePlans } from '../../api/usePlans'

/** The page before the first plan; deleted plans can be restored from it. */
export function NoPlan() {
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
