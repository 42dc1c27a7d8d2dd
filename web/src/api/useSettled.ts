import { useEffect, useState } from 'react'

const SETTLED_MS = 150

/** What somebody types, once they pause: nothing is asked for each letter. */
export function useSettled(typed: string): string {
  const [settled, setSettled] = useState(typed)
  useEffect(() => {
    const timer = setTimeout(() => {
      setSettled(typed)
    }, SETTLED_MS)
    return () => {
      clearTimeout(timer)
    }
  }, [typed])
  return settled
}

/** Whether each word that was typed stands in one of these texts. */
export function holdsAll(texts: readonly (string | null | undefined)[], typed: string): boolean {
  const text = texts.join(' ').toLowerCase()
  return typed.toLowerCase().split(/\s+/).every((word) => text.includes(word))
}
