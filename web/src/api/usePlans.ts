import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { api, taken, type Shape } from './client'
import { queries } from './queries'

export type Plan = Shape['PlanShape']
export type Slot = Shape['SlotShape']
export type NewPlan = Shape['NewPlanShape']
export type Happening = Shape['Told']['what']

/** All plans, the newest first, or those that were deleted. */
export const usePlans = (deleted = false) => useQuery(queries.plans(deleted))

/** A plan, looked at anew every minute. */
export const usePlan = (id: string | undefined) => useQuery(queries.plan(id))

/** A plan worked out, not kept. */
export const usePreview = (wanted: NewPlan | null) => useQuery(queries.preview(wanted))

/** What a run that fills a slot will state. */
export const useSlot = (id: string | null) => useQuery(queries.slot(id))

/** What can be done to plans and their slots; each answer is the plan as it is then. */
export function usePlanChanges() {
  const client = useQueryClient()
  const onSuccess = async (plan: Plan) => {
    client.setQueryData(queries.plan(plan.id).queryKey, plan)
    await client.invalidateQueries({ queryKey: ['plans'] })
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
      onSuccess: () => client.invalidateQueries({ queryKey: ['plans'] }),
    }),
    restore: useMutation({
      mutationFn: async (id: string) => taken(await api.POST('/api/plans/{plan_id}/restored', one(id))),
      onSuccess,
    }),
    rest: useMutation({
      mutationFn: async ({ id, letGo }: { id: string; letGo: boolean }) =>
        taken(await api.PUT('/api/plans/{plan_id}/rest', { ...one(id), body: { let_go: letGo } })),
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
