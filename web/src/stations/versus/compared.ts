import { useCallback, useMemo } from 'react'
import { useSearchParams } from 'react-router'
import type { Compared } from '../../api/useVersus'

/** The address of a file of a comparison. */
export function filePath(name: 'pairs.csv' | 'comparison.json', { runs, align }: Compared, window: { start: number; end: number }): string {
  const query = new URLSearchParams([...runs.map((r): [string, string] => ['runs', r]), ['start', String(window.start)], ['end', String(window.end)], ['align', align]])
  return `/api/versus/${name}?${query.toString()}`
}

const figure = (text: string | null) => (text === null || text === '' || !Number.isFinite(Number(text)) ? null : Number(text))

/** What the address says is compared, and how to change it; each change can be gone back from. */
export function useCompared(): [Compared, (change: Partial<Compared>) => void] {
  const [query, setQuery] = useSearchParams()
  const text = query.toString()
  const compared = useMemo((): Compared => {
    const q = new URLSearchParams(text)
    return {
      runs: (q.get('runs') ?? '').split(',').filter(Boolean),
      start: figure(q.get('from')),
      end: figure(q.get('to')),
      align: q.get('by') === 'percent' ? 'common percent' : 'placement',
    }
  }, [text])
  const change = useCallback(
    (changed: Partial<Compared>) => {
      const next = { ...compared, ...changed }
      const q = new URLSearchParams()
      if (next.runs.length) q.set('runs', next.runs.join(','))
      if (next.start !== null) q.set('from', String(next.start))
      if (next.end !== null) q.set('to', String(next.end))
      if (next.align === 'common percent') q.set('by', 'percent')
      const tab = new URLSearchParams(text).get('see')
      if (tab) q.set('see', tab)
      setQuery(q)
    },
    [compared, setQuery, text],
  )
  return [compared, change]
}

/** What a percentage or a window is said as. */
export const windowText = (w: { start: number; end: number }) => `${String(w.start)} to ${String(w.end)}\u00a0%`

