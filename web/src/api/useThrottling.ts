import { useQuery } from '@tanstack/react-query'
import { api, taken } from './client'

/** Heat over all runs. */
export function useThrottling() {
  return useQuery({ queryKey: ['throttling'], queryFn: async () => taken(await api.GET('/api/throttling')) })
}
