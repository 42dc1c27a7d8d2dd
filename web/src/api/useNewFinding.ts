import { useMutation } from '@tanstack/react-query'
import { api, taken, type Shape } from './client'
import { useChanged } from './useChanged'

/** Draws a finding up. */
export function useNewFinding() {
  const changed = useChanged('finding')
  return useMutation({
    mutationFn: async (body: Shape['Asked']) => taken(await api.POST('/api/findings', { body })),
    onSuccess: changed,
  })
}
