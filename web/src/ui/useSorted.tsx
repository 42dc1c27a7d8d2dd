import { useMemo, useState, type ReactNode } from 'react'

type Figure = number | string | null | undefined

interface Column<T> {
  value: (row: T) => Figure
  /** Whether the first click puts the most on top. */
  most?: boolean
}

export interface Sorted<K extends string> {
  order: K
  down: boolean
  sort: (key: K) => void
}

/** Rows in the order of a column; a second click turns it round; what is not known stands last. */
export function useSorted<T, C extends Record<string, Column<T>>>(
  rows: readonly T[],
  columns: C,
  first: keyof C & string,
): Sorted<keyof C & string> & { rows: T[] } {
  const { order, down, sort } = useOrder<keyof C & string>(first, (key) => columns[key]?.most ?? false)
  const sorted = useMemo(() => {
    const value = columns[order]?.value
    return value ? rows.toSorted((a, b) => compared(value(a), value(b), down)) : [...rows]
  }, [rows, columns, order, down])
  return { rows: sorted, order, down, sort }
}

/** The order of a table: a second click turns it round. */
export function useOrder<K extends string>(first: K, most: (key: K) => boolean): Sorted<K> {
  const [{ order, down }, setOrder] = useState({ order: first, down: most(first) })
  return {
    order,
    down,
    sort: (key) => {
      setOrder(key === order ? { order, down: !down } : { order: key, down: most(key) })
    },
  }
}

const known = (f: Figure) => f !== null && f !== undefined && f !== ''

function compared(a: Figure, b: Figure, down: boolean): number {
  if (!known(a) || !known(b)) return Number(known(b)) - Number(known(a))
  const by = typeof a === 'number' && typeof b === 'number' ? a - b : String(a).localeCompare(String(b), 'en', { numeric: true })
  return down ? -by : by
}

interface HeadProps<K extends string> {
  sorted: Sorted<K>
  by: K
  className?: string
  children: ReactNode
}

/** The heading of a column that sorts by it. */
export function SortButton<K extends string>({ sorted, by, className = '', children }: HeadProps<K>) {
  const here = sorted.order === by
  return (
    <button
      type="button"
      className={`cursor-pointer ${className} ${here ? 'text-base-content font-semibold' : ''}`}
      aria-pressed={here}
      title="sort by this; again to reverse"
      onClick={() => {
        sorted.sort(by)
      }}
    >
      {children}
      {here && (sorted.down ? ' ↓' : ' ↑')}
    </button>
  )
}

/** The same in a table, where the cell says how it is sorted. */
export function SortHead<K extends string>({ sorted, by, className = 'text-right', children }: HeadProps<K>) {
  return (
    <th scope="col" className={`py-1 font-normal ${className}`} aria-sort={sorted.order === by ? (sorted.down ? 'descending' : 'ascending') : 'none'}>
      <SortButton sorted={sorted} by={by}>
        {children}
      </SortButton>
    </th>
  )
}
