import { useSyncExternalStore } from 'react'

function watched(asked: string) {
  const query = window.matchMedia(asked)
  const subscribe = (listener: () => void) => {
    query.addEventListener('change', listener)
    return () => {
      query.removeEventListener('change', listener)
    }
  }
  return () => useSyncExternalStore(subscribe, () => query.matches)
}

/** Whether the screen is as narrow as a phone's: lists are cards there. */
export const useNarrow = watched('(max-width: 639px)')

/** Whether the screen is a tablet's upright, or narrower: wide rows are cards there. */
export const useTablet = watched('(max-width: 1023px)')
