import { useMutation, useQuery } from '@tanstack/react-query'
import { api, taken, type Shape } from './client'
import type { Degrees } from '../reader/settings'
import { queries, type Compared } from './queries'

/** So often a table is asked for again that is still being worked out. */
const LEFT_AGAIN_MS = 3000

export type Versus = Shape['VersusShape']
export type Row = Shape['VersusRow']
export type Pair = Shape['PairShape']

export type { Compared } from './queries'

/** Runs against each other; the last comparison stands until the next is there. */
export const useVersus = (compared: Compared, degrees: Degrees) => useQuery(queries.versus(compared, degrees))

/** What there is to compare: plans, phones, everything. */
export const useOffered = () => useQuery(queries.offered())

/** Checks a claim against the times. */
export function useClaim() {
  return useMutation({
    mutationFn: async (asked: Shape['ClaimAsked']) => taken(await api.POST('/api/versus/claim', { body: asked })),
  })
}

/** Estimates for another phone. */
export function useCarry() {
  return useMutation({
    mutationFn: async (asked: Shape['CarryAsked']) => taken(await api.POST('/api/versus/carry', { body: asked })),
  })
}

/** Phones and chargers in one table. */
export const usePhoneTable = () =>
  useQuery({ ...queries.phoneTable(), refetchInterval: (query) => (query.state.data?.left || query.state.data?.unsaid ? LEFT_AGAIN_MS : false) })

/** A matrix for a new plan that fills fields of the table. */
export function usePlanDraft() {
  return useMutation({
    mutationFn: async (fields: Shape['WantedField'][]) => taken(await api.POST('/api/versus/plan', { body: { fields } })),
  })
}
