import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import type { Problem, Shape } from './client'
import { lines } from './lines'

export type Coverage = Shape['CoverageDocument']
type Line = Shape['CoverageProgress'] & { problem?: Problem }

/** Every charger with every phone, and how far the table has come while it is made. */
export function useCoverage(choice: Shape['CoverageChoice'], kitKey: unknown, enabled: boolean) {
  const [fraction, setFraction] = useState(0)
  const table = useQuery({
    queryKey: ['coverage', choice, kitKey],
    enabled,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    queryFn: async ({ signal }) => {
      setFraction(0)
      const onLine = (line: Line) => {
        setFraction(line.fraction)
      }
      const last = await lines<Line>('/api/coverage', choice, onLine, (line) => line.step === 'done', signal)
      return last.coverage as Coverage
    },
  })
  return { ...table, fraction }
}
