import { useCallback, useState } from 'react'
import type { Values } from './forms'

const read = (key: string): Values => {
  try {
    return JSON.parse(sessionStorage.getItem(key) ?? '{}') as Values
  } catch {
    return {}
  }
}

/** What is typed in a form, there again after the page was left or loaded anew, until it is kept. */
export function useDraft(key: string): { values: Values; set: (name: string, value: string) => void; clear: () => void } {
  const [values, setValues] = useState<Values>(() => read(key))
  const set = useCallback(
    (name: string, value: string) => {
      setValues((before) => {
        const now = { ...before, [name]: value }
        sessionStorage.setItem(key, JSON.stringify(now))
        return now
      })
    },
    [key],
  )
  const clear = useCallback(() => {
    sessionStorage.removeItem(key)
    setValues({})
  }, [key])
  return { values, set, clear }
}
