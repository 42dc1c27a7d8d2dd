import { useQueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import type { Problem, Shape } from './client'
import { lines } from './lines'
import { queries } from './queries'
import type { Plan } from './usePlans'

type Line = Shape['PlanProgress'] & { problem?: Problem }

/** Looks for a better schedule while the plan is open, once for every time that it was planned; its share that is done. */
export function useImprove(plan: Plan | undefined): number | null {
  const client = useQueryClient()
  const [fraction, setFraction] = useState<number | null>(null)
  const [id, revision] = [plan?.id, plan?.revision]
  const wanted = plan !== undefined && !plan.schedule.searched && !plan.schedule.optimal && plan.next !== null
  useEffect(() => {
    if (!wanted || !id) return
    const stop = new AbortController()
    const onLine = (line: Line) => {
      if (stop.signal.aborted) return
      if (line.step === 'better') void client.invalidateQueries(queries.plan(id))
      else setFraction(line.fraction)
    }
    lines<Line>(`/api/plans/${id}/improved`, {}, onLine, (line) => line.step === 'done', stop.signal)
      .then((last) => {
        if (last.plan && !stop.signal.aborted) client.setQueryData(queries.plan(id).queryKey, last.plan)
      })
      .catch(() => null)
      .finally(() => {
        if (!stop.signal.aborted) setFraction(null)
      })
    return () => {
      stop.abort()
      setFraction(null)
    }
  }, [wanted, id, revision, client])
  return fraction
}
