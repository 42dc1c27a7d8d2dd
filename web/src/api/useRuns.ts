import { useQuery } from '@tanstack/react-query'
import { api, taken } from './client'

/** All runs, the newest first. */
export function useRuns() {
  return useQuery({ queryKey: ['runs'], queryFn: async () => taken(await api.GET('/api/runs')) })
}
