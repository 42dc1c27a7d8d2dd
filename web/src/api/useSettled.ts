import { useEffect, useState } from 'react'

const SETTLED_MS = 150

/** A value once it has rested a moment: nothing is asked for each letter that is typed. */
export function useSettled<T>(value: T, afterMs = SETTLED_MS): T {
  const [settled, setSettled] = useState(value)
  useEffect(() => {
    const timer = setTimeout(() => {
      setSettled(value)
    }, afterMs)
    return () => {
      clearTimeout(timer)
    }
  }, [value, afterMs])
  return settled
}

/** Whether each word that was typed stands in one of these texts. */
export function holdsAll(texts: readonly (string | null | undefined)[], typed: string): boolean {
  const text = texts.join(' ').toLowerCase()
  return typed.toLowerCase().split(/\s+/).every((word) => text.includes(word))
}
