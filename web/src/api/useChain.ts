import { useMutation, useQuery } from '@tanstack/react-query'
import { api, taken, type Shape } from './client'
import { queries } from './queries'
import { useChanged } from './useChanged'

export type ChainChoice = Shape['ChainChoice']
export type Chain = Shape['ChainShape']

/** What a chosen chain will do; nothing is asked while no phone is chosen. */
export const useChain = (choice: ChainChoice | null, kitKey: unknown) => useQuery(queries.chain(choice, kitKey))

/** Rehearses a chain: the run that was made comes back. */
export function useRehearse() {
  return useMutation({
    mutationFn: async (body: Shape['NewRehearsalShape']) => taken(await api.POST('/api/rehearsals', { body })),
    onSuccess: useChanged('run'),
  })
}
