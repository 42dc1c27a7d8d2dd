import { asProblem, sayProblem } from '../api/client'

/** What was refused: where, what is wrong, what would mend it. */
export function ProblemLine({ error }: { error: unknown }) {
  const problem = asProblem(error)
  return (
    <div role="alert" className="border-error text-error border-l-4 px-3 py-1 text-sm">
      {sayProblem(problem)}
    </div>
  )
}
