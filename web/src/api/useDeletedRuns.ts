import { useQuery } from '@tanstack/react-query'
import { api, taken } from './client'

/** Runs that were deleted and can be brought back. */
export function useDeletedRuns() {
  return useQuery({ queryKey: ['deleted runs'], queryFn: async () => taken(await api.GET('/api/deleted-runs')) })
}
