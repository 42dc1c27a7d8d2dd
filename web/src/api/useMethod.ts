import { useMutation, useQuery } from '@tanstack/react-query'
import { api, taken, type Shape } from './client'
import { queries } from './queries'
import { useChanged } from './useChanged'

export type Card = Shape['CardShape']

/** Method cards, schools, factors and orders: all that a plan can be made of. */
export const useMethod = () => useQuery(queries.method())

/** What can be done to one's own cards. */
export function useCardChanges() {
  const onSuccess = useChanged('card')
  const one = (id: string) => ({ params: { path: { card_id: id } } })
  return {
    add: useMutation({
      mutationFn: async (card: Record<string, unknown>) =>
        taken(await api.POST('/api/method/cards', { body: { card, revision: 0 } })),
      onSuccess,
    }),
    change: useMutation({
      mutationFn: async ({ id, ...body }: Shape['CardChange'] & { id: string }) =>
        taken(await api.PUT('/api/method/cards/{card_id}', { ...one(id), body })),
      onSuccess,
    }),
    retire: useMutation({
      mutationFn: async (id: string) => taken(await api.POST('/api/method/cards/{card_id}/retired', one(id))),
      onSuccess,
    }),
    bringBack: useMutation({
      mutationFn: async (id: string) => taken(await api.DELETE('/api/method/cards/{card_id}/retired', one(id))),
      onSuccess,
    }),
  }
}
