import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useSettings } from '../ui/settings'
import { api, taken } from './client'

/** One run, read; temperatures in its sentences follow the setting. */
export function useRun(id: string) {
  const { degrees } = useSettings()
  return useQuery({
    queryKey: ['run', id, degrees],
    queryFn: async () =>
      taken(await api.GET('/api/runs/{run_id}', { params: { path: { run_id: id }, query: { degrees } } })),
    placeholderData: keepPreviousData,
  })
}
