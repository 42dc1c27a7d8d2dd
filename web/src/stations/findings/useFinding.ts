import { useMutation, useQueryClient } from '@tanstack/react-query'
import { api, taken, type Shape } from '../../api/client'
import { useChanged } from '../../api/useChanged'

export type Finding = Shape['FindingShape']
export type Sentence = Shape['SentenceDocument']
export type Worded = Shape['WordedSentence']

/** What can be done with a finding; each answer is the finding as it then is. */
export function useFindingChanges(id: string) {
  const client = useQueryClient()
  const changed = useChanged('finding')
  const path = { finding_id: id }
  const after = {
    onSuccess: async (found: Finding) => {
      client.setQueryData(['finding', found.id], found)
      await changed()
    },
  }
  return {
    words: useMutation({
      ...after,
      mutationFn: async (body: Shape['NewWords']) => taken(await api.PUT('/api/findings/{finding_id}/words', { params: { path }, body })),
    }),
    leaveOut: useMutation({
      ...after,
      mutationFn: async (body: Shape['LeftOutSentence']) => taken(await api.PUT('/api/findings/{finding_id}/left-out', { params: { path }, body })),
    }),
    draft: useMutation({
      ...after,
      mutationFn: async (revision: number) => taken(await api.POST('/api/findings/{finding_id}/draft', { params: { path }, body: { revision } })),
    }),
    change: useMutation({
      ...after,
      mutationFn: async (body: Shape['AskedAnew']) => taken(await api.PUT('/api/findings/{finding_id}', { params: { path }, body })),
    }),
    publish: useMutation({
      ...after,
      mutationFn: async (body: Shape['Published']) => taken(await api.PUT('/api/findings/{finding_id}/published', { params: { path }, body })),
    }),
    remove: useMutation({
      // The list alone: the finding itself is not there any more to be asked for.
      onSuccess: () => client.invalidateQueries({ queryKey: ['findings'] }),
      mutationFn: async () => {
        taken(await api.DELETE('/api/findings/{finding_id}', { params: { path } }))
      },
    }),
    restore: useMutation({
      ...after,
      mutationFn: async () => taken(await api.POST('/api/findings/{finding_id}/restored', { params: { path } })),
    }),
  }
}

export type FindingChanges = ReturnType<typeof useFindingChanges>
