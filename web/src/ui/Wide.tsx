import type { ComponentProps, CSSProperties } from 'react'
import { useTablet } from './useNarrow'

interface Props extends ComponentProps<'table'> {
  /** Least width on a phone or a tablet, in rem: there it scrolls within itself, its first column standing. */
  least?: number
}

/** A table that may be wider than the screen of a phone. */
export function Wide({ least, ...table }: Props) {
  const scrolls = useTablet() && least !== undefined
  return (
    <div
      className="scrolls-within"
      style={least === undefined ? undefined : ({ '--least': `${String(least)}rem` } as CSSProperties)}
      {...(scrolls ? { tabIndex: 0, role: 'group', 'aria-label': table['aria-label'] ?? 'table' } : {})}
    >
      <table {...table} />
    </div>
  )
}
