import { useQuery } from '@tanstack/react-query'
import { useEffect, useRef } from 'react'
import { queries } from './queries'
import { useChanged } from './useChanged'

const SOON_MS = 1500
const LATER_MS = 60_000

/** How far the reading anew of stored runs has come; what is shown is asked for again once it is over. */
export function useRereading() {
  const changed = useChanged('run')
  const reanalysis = useQuery({
    ...queries.rereading(),
    refetchInterval: (query) => (query.state.data?.left ? SOON_MS : LATER_MS),
  })
  const left = reanalysis.data?.left ?? 0
  const before = useRef(0)
  useEffect(() => {
    if (before.current > 0 && left === 0) void changed()
    before.current = left
  }, [left, changed])
  return reanalysis.data
}
