import { useEffect, useState } from 'react'

const PAUSE_MS = 200

/** What is understood of a text, a moment after the last key; `ask` may change only with what it depends on. */
export function useUnderstood<T>(text: string, ask: (text: string, signal: AbortSignal) => Promise<T>): { data: T | null; error: unknown } {
  const [state, setState] = useState<{ data: T | null; error: unknown }>({ data: null, error: null })
  useEffect(() => {
    if (!text.trim()) return
    const stop = new AbortController()
    const timer = setTimeout(() => {
      ask(text, stop.signal)
        .then((data) => {
          setState({ data, error: null })
        })
        .catch((error: unknown) => {
          if (!stop.signal.aborted) setState({ data: null, error })
        })
    }, PAUSE_MS)
    return () => {
      clearTimeout(timer)
      stop.abort()
    }
  }, [text, ask])
  return text.trim() ? state : { data: null, error: null }
}
