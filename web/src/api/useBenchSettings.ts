import { useQuery } from '@tanstack/react-query'
import { api, taken } from './client'

/** Habits, tariff and the reference run. */
export function useBenchSettings() {
  return useQuery({ queryKey: ['settings'], queryFn: async () => taken(await api.GET('/api/settings')) })
}
