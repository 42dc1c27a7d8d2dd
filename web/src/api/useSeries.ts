import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { api, taken } from './client'

/** The curves of a run, or of a stretch of it, thinned to the screen. */
export function useSeries(id: string, revision: number, range: [number, number] | null) {
  return useQuery({
    queryKey: ['series', id, revision, range],
    queryFn: async () =>
      taken(
        await api.GET('/api/runs/{run_id}/series', {
          params: { path: { run_id: id }, query: { start: range?.[0], end: range?.[1], points: 1600 } },
        }),
      ),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  })
}
