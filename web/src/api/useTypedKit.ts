import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { api, taken } from './client'

/** What is understood of a line that is being typed; nothing is kept. */
export function useTypedKit(line: string) {
  return useQuery({
    queryKey: ['typed-kit', line],
    queryFn: async () => taken(await api.POST('/api/kit/line', { body: { line, keep: false } })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 10_000,
  })
}
