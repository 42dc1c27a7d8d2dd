import { useInfiniteQuery } from '@tanstack/react-query'
import { useMemo } from 'react'
import { queries, type RunsAsked } from './queries'
import { holdsAll, useSettled } from './useSettled'

/** Runs filtered and sorted by the application: those that have come so far, how many there are, and more on asking. */
export function useRunList(asked: RunsAsked) {
  const typed = asked.words ?? ''
  const words = useSettled(typed)
  const list = useInfiniteQuery(queries.runList({ ...asked, words }))
  const answered = typed === words && !list.isPlaceholderData
  const rows = useMemo(() => {
    const all = list.data?.pages.flatMap((page) => page.rows) ?? []
    // Until the answer is there, those at hand that fit.
    return answered ? all : all.filter((r) => holdsAll([r.label, ...Object.values(r.factors), r.summary.headline], typed))
  }, [list.data, answered, typed])
  return {
    rows,
    scale: list.data?.pages[0]?.scale ?? null,
    isPending: list.isPending,
    error: list.error,
    hasMore: list.hasNextPage,
    more: () => {
      if (list.hasNextPage && !list.isFetching) void list.fetchNextPage()
    },
  }
}
