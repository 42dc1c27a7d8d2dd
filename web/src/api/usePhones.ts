import { useQuery } from '@tanstack/react-query'
import { api, taken } from './client'

/** Phones that were tested before. */
export function usePhones() {
  return useQuery({ queryKey: ['phones'], queryFn: async () => taken(await api.GET('/api/phones')) })
}
