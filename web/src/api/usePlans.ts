import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { api, taken, type Shape } from './client'

export type Plan = Shape['PlanShape']
export type Slot = Shape['SlotShape']
export type NewPlan = Shape['NewPlanShape']
export type Happening = Shape['Told']['what']

const A_MINUTE = 60_000

/** All plans, the newest first, or those laid aside. */
export function usePlans(deleted = false) {
  return useQuery({
    queryKey: ['plans', deleted],
    queryFn: async () => taken(await api.GET('/api/plans', { params: { query: { deleted } } })),
  })
}

/** A plan, looked at anew every minute: what is due changes with the clock. */
export function usePlan(id: string | undefined) {
  return useQuery({
    queryKey: ['plan', id],
    enabled: id !== undefined,
    refetchInterval: A_MINUTE,
    queryFn: async () => taken(await api.GET('/api/plans/{plan_id}', { params: { path: { plan_id: id ?? '' } } })),
  })
}

/** A plan worked out, not kept. */
export function usePreview(wanted: NewPlan | null) {
  return useQuery({
    queryKey: ['preview', wanted],
    enabled: wanted !== null,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: A_MINUTE,
    queryFn: async ({ signal }) => taken(await api.POST('/api/plans/preview', { body: wanted as NewPlan, signal })),
  })
}

/** What a run that fills a slot will state. */
export function useSlot(id: string | null) {
  return useQuery({
    queryKey: ['slot', id],
    enabled: id !== null,
    queryFn: async () => taken(await api.GET('/api/slots/{slot_id}', { params: { path: { slot_id: id ?? '' } } })),
  })
}

/** What can be done to plans and their slots; each answer is the plan as it is then. */
export function usePlanChanges() {
  const queries = useQueryClient()
  const onSuccess = async (plan: Plan) => {
    queries.setQueryData(['plan', plan.id], plan)
    await queries.invalidateQueries({ queryKey: ['plans'] })
  }
  const one = (id: string) => ({ params: { path: { plan_id: id } } })
  const slot = (id: string) => ({ params: { path: { slot_id: id } } })
  return {
    add: useMutation({
      mutationFn: async (body: NewPlan) => taken(await api.POST('/api/plans', { body })),
      onSuccess,
    }),
    change: useMutation({
      mutationFn: async ({ id, ...body }: NewPlan & { id: string }) =>
        taken(await api.PUT('/api/plans/{plan_id}', { ...one(id), body })),
      onSuccess,
    }),
    replan: useMutation({
      mutationFn: async (id: string) => taken(await api.POST('/api/plans/{plan_id}/replanned', one(id))),
      onSuccess,
    }),
    remove: useMutation({
      mutationFn: async (id: string) => taken(await api.DELETE('/api/plans/{plan_id}', one(id))),
      onSuccess: () => queries.invalidateQueries({ queryKey: ['plans'] }),
    }),
    restore: useMutation({
      mutationFn: async (id: string) => taken(await api.POST('/api/plans/{plan_id}/restored', one(id))),
      onSuccess,
    }),
    tell: useMutation({
      mutationFn: async ({ id, ...body }: Shape['Told'] & { id: string }) =>
        taken(await api.POST('/api/slots/{slot_id}/happened', { ...slot(id), body })),
      onSuccess,
    }),
    undo: useMutation({
      mutationFn: async (id: string) => taken(await api.DELETE('/api/slots/{slot_id}/happened', slot(id))),
      onSuccess,
    }),
  }
}
