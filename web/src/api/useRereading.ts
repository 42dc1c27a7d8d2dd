import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useRef } from 'react'
import { api, taken } from './client'

const SOON_MS = 1500
const LATER_MS = 60_000

/** How far the reading anew of stored runs has come; what is shown is asked for again once it is over. */
export function useRereading() {
  const queries = useQueryClient()
  const found = useQuery({
    queryKey: ['rereading'],
    queryFn: async () => taken(await api.GET('/api/rereading')),
    refetchInterval: (query) => (query.state.data?.left ? SOON_MS : LATER_MS),
  })
  const left = found.data?.left ?? 0
  const before = useRef(0)
  useEffect(() => {
    if (before.current > 0 && left === 0) void queries.invalidateQueries({ predicate: (q) => q.queryKey[0] !== 'rereading' })
    before.current = left
  }, [left, queries])
  return found.data
}
