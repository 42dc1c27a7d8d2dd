import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { api, taken, type Shape } from './client'

export type ChainChoice = Shape['ChainChoice']
export type Chain = Shape['ChainShape']

/** What a chosen chain will do; nothing is asked while no phone is chosen. */
export function useChain(choice: ChainChoice | null, kitKey: unknown) {
  return useQuery({
    queryKey: ['chain', choice, kitKey],
    enabled: choice !== null,
    queryFn: async () => taken(await api.POST('/api/chain', { body: choice as ChainChoice })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  })
}

/** Rehearses a chain: the run that was made comes back. */
export function useRehearse() {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: async (body: Shape['NewRehearsalShape']) => taken(await api.POST('/api/rehearsals', { body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['runs'] }),
  })
}
