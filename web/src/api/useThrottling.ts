import { useQuery } from '@tanstack/react-query'
import { useSettings } from '../ui/settings'
import { api, taken } from './client'

/** Heat over all runs; rooms and reasons follow the setting of the degrees. */
export function useThrottling() {
  const { degrees } = useSettings()
  return useQuery({
    queryKey: ['throttling', degrees],
    queryFn: async () => taken(await api.GET('/api/throttling', { params: { query: { degrees } } })),
  })
}
