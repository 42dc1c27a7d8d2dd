import { keepPreviousData, useMutation, useQuery } from '@tanstack/react-query'
import { api, taken, type Shape } from './client'
import type { Degrees } from '../ui/settings'

export type Versus = Shape['VersusShape']
export type Row = Shape['VersusRow']
export type Pair = Shape['PairShape']

/** Which runs are compared, over which window, laid together by what. */
export interface Compared {
  runs: string[]
  start: number | null
  end: number | null
  align: Versus['align']
}

/** Runs against each other; the last comparison stands until the next is there. */
export function useVersus({ runs, start, end, align }: Compared, degrees: Degrees) {
  return useQuery({
    queryKey: ['versus', runs, start, end, align, degrees],
    enabled: runs.length > 1,
    placeholderData: keepPreviousData,
    queryFn: async ({ signal }) =>
      taken(
        await api.GET('/api/versus', {
          params: { query: { run: runs, align, degrees, ...(start === null ? {} : { start }), ...(end === null ? {} : { end }) } },
          signal,
        }),
      ),
  })
}

/** What there is to compare: plans, phones, everything. */
export function useOffered() {
  return useQuery({ queryKey: ['versus', 'offered'], queryFn: async () => taken(await api.GET('/api/versus/offered')) })
}

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
export function usePhoneTable() {
  return useQuery({ queryKey: ['versus', 'table'], queryFn: async () => taken(await api.GET('/api/versus/table')) })
}

/** A matrix for a new plan that fills fields of the table. */
export function usePlanDraft() {
  return useMutation({
    mutationFn: async (fields: Shape['WantedField'][]) => taken(await api.POST('/api/versus/plan', { body: { fields } })),
  })
}
