import { useSyncExternalStore } from 'react'

/** The minute under the cursor, told to those who draw it and to nobody else, so that ribbons need not be drawn anew. */
export interface Cursor {
  get: () => number | null
  set: (minute: number | null) => void
  subscribe: (listener: () => void) => () => void
}

export function makeCursor(): Cursor {
  let minute: number | null = null
  const listeners = new Set<() => void>()
  return {
    get: () => minute,
    set: (next) => {
      if (next === minute) return
      minute = next
      for (const listener of listeners) listener()
    },
    subscribe: (listener) => {
      listeners.add(listener)
      return () => {
        listeners.delete(listener)
      }
    },
  }
}

export const useCursor = (cursor: Cursor) => useSyncExternalStore(cursor.subscribe, cursor.get)
