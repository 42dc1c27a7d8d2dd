import { useMutation, useQuery } from '@tanstack/react-query'
import { api, taken, type Shape } from './client'
import { queries } from './queries'
import { useChanged } from './useChanged'

export type Kit = Shape['KitShape']
export type KitKind = Kit['kind']

/** All kit in use, or all that was removed. */
export const useKit = (retired = false) => useQuery(queries.kit(retired))

/** The kinds of kit with the fields of their forms. */
export const useKitKinds = () => useQuery(queries.kitKinds())

/** What can be done to kit; every change is seen by all that shows it. */
export function useKitChanges() {
  const onSuccess = useChanged('kit')
  const one = (id: string) => ({ params: { path: { piece_id: id } } })
  return {
    add: useMutation({
      mutationFn: async (body: Shape['NewKit']) => taken(await api.POST('/api/kit', { body })),
      onSuccess,
    }),
    line: useMutation({
      mutationFn: async (line: string) => taken(await api.POST('/api/kit/line', { body: { line, keep: true } })),
      onSuccess,
    }),
    change: useMutation({
      mutationFn: async ({ id, ...body }: Shape['KitChange'] & { id: string }) =>
        taken(await api.PUT('/api/kit/{piece_id}', { ...one(id), body })),
      onSuccess,
    }),
    retire: useMutation({
      mutationFn: async (id: string) => taken(await api.POST('/api/kit/{piece_id}/retired', one(id))),
      onSuccess,
    }),
    bringBack: useMutation({
      mutationFn: async (id: string) => taken(await api.DELETE('/api/kit/{piece_id}/retired', one(id))),
      onSuccess,
    }),
    fit: useMutation({
      mutationFn: async ({ id, ...body }: Shape['FitRequest'] & { id: string }) =>
        taken(await api.POST('/api/kit/{piece_id}/fit', { ...one(id), body })),
      onSuccess,
    }),
    dropFit: useMutation({
      mutationFn: async (id: string) => taken(await api.DELETE('/api/kit/{piece_id}/fit', one(id))),
      onSuccess,
    }),
    bring: useMutation({
      mutationFn: async (file: File) => {
        const text = await file.text()
        return taken(
          await api.POST('/api/kit/import', {
            params: { query: { name: file.name } },
            body: text,
            bodySerializer: (body) => body,
            headers: { 'Content-Type': 'text/plain' },
          }),
        )
      },
      onSuccess,
    }),
  }
}

/** The standards of wireless charging, by name. */
export const useStandards = () => useQuery(queries.standards())
