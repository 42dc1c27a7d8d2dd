import { useQuery } from '@tanstack/react-query'
import type { Shape } from './client'

const ASKED_EVERY_MS = 5000

/** What does not work just now; undefined until the application has answered. */
export function useHealth(): Shape['Health'] | undefined {
  const asked = useQuery({
    queryKey: ['health'],
    // With 503 the answer is there as well: it says that the database does not answer.
    queryFn: async ({ signal }) => (await (await fetch('/api/health', { signal })).json()) as Shape['Health'],
    refetchInterval: ASKED_EVERY_MS,
    refetchIntervalInBackground: true,
    retry: false,
  })
  return asked.data
}
