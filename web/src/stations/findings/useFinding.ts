import { useMutation, useQueryClient } from '@tanstack/react-query'
import { api, taken, type Shape } from '../../api/client'
import { queries } from '../../api/queries'
import { useChanged } from '../../api/useChanged'

export type Finding = Shape['FindingShape']
export type Sentence = Shape['SentenceDocument']
export type Worded = Shape['WordedSentence']

/**
 * What can be done with a finding; each answer is the finding as it then is. One change goes out after the other, each
 * upon the revision that the one before left behind, so that nobody has to wait for a slow answer.
 */
export function useFindingChanges(id: string) {
  const client = useQueryClient()
  const changed = useChanged('finding')
  const path = { finding_id: id }
  const { queryKey } = queries.finding(id)
  const after = {
    scope: { id: `finding ${id}` },
    onSuccess: (found: Finding) => {
      client.setQueryData(queryKey, found)
      void changed()
    },
  }
  /** As it is on the screen when the change goes out. */
  const revision = () => client.getQueryData(queryKey)?.revision ?? 0
  return {
    words: useMutation({
      ...after,
      mutationFn: async (words: Omit<Shape['NewWords'], 'revision'>) =>
        taken(await api.PUT('/api/findings/{finding_id}/words', { params: { path }, body: { ...words, revision: revision() } })),
    }),
    leaveOut: useMutation({
      ...after,
      mutationFn: async (sentence: Omit<Shape['LeftOutSentence'], 'revision'>) =>
        taken(await api.PUT('/api/findings/{finding_id}/left-out', { params: { path }, body: { ...sentence, revision: revision() } })),
    }),
    draft: useMutation({
      ...after,
      mutationFn: async () => taken(await api.POST('/api/findings/{finding_id}/draft', { params: { path }, body: { revision: revision() } })),
    }),
    change: useMutation({
      ...after,
      mutationFn: async (asked: Omit<Shape['AskedAnew'], 'revision'>) =>
        taken(await api.PUT('/api/findings/{finding_id}', { params: { path }, body: { ...asked, revision: revision() } })),
    }),
    publish: useMutation({
      ...after,
      mutationFn: async (published: boolean) =>
        taken(await api.PUT('/api/findings/{finding_id}/published', { params: { path }, body: { published, revision: revision() } })),
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
