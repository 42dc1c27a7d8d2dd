import { useInfiniteQuery } from '@tanstack/react-query'
import { useMemo } from 'react'
import { queries, type HeatAsked } from './queries'
import { holdsAll, useSettled } from './useSettled'

/** Heat over all runs: the rows that have come so far, and more on asking. */
export function useThrottling(asked: HeatAsked) {
  const typed = asked.words ?? ''
  const words = useSettled(typed)
  const list = useInfiniteQuery(queries.throttling({ ...asked, words }))
  const answered = typed === words && !list.isPlaceholderData
  const rows = useMemo(() => {
    const all = list.data?.pages.flatMap((page) => page.rows) ?? []
    return answered ? all : all.filter((r) => holdsAll([r.phone, r.charger, r.label, r.conditions], typed))
  }, [list.data, answered, typed])
  const first = list.data?.pages[0]
  return {
    rows,
    usual: first?.usual ?? '',
    scale: first?.scale ?? null,
    isPending: list.isPending,
    error: list.error,
    more: () => {
      if (list.hasNextPage && !list.isFetching) void list.fetchNextPage()
    },
  }
}
