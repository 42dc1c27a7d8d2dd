import { useQueryClient } from '@tanstack/react-query'
import { useCallback } from 'react'

/** What shows a thing, by the first word of the keys in `queries`: asked for again once it has changed. */
const SHOWN_BY = {
  run: ['runs', 'run', 'series', 'deletedRuns', 'throttling', 'spotChecks', 'versus', 'phones', 'plans', 'plan', 'slot', 'rereading', 'findings', 'finding', 'advice'],
  kit: ['kit', 'packs', 'phones', 'chain', 'coverage', 'typedKit', 'preview', 'plan', 'versus', 'meterChecks'],
  card: ['method', 'preview'],
  pack: ['packs', 'packTest', 'findings', 'finding'],
  finding: ['findings', 'finding', 'advice'],
  habits: ['settings', 'run', 'versus', 'findings', 'finding'],
  /** Another reference run: every run is read anew, and the counter of that shows when. */
  reference: ['settings', 'runs', 'run', 'versus', 'throttling', 'rereading'],
} as const

export type Changed = keyof typeof SHOWN_BY

/** Asks again for all that shows what has changed; over once it is there. */
export function useChanged(what: Changed): () => Promise<void> {
  const client = useQueryClient()
  return useCallback(async () => {
    await Promise.all(SHOWN_BY[what].map((subject) => client.invalidateQueries({ queryKey: [subject] })))
  }, [client, what])
}
