import { useLayoutEffect } from 'react'

/** Calls the action of a key pressed anywhere but in a field. */
export function useKeys(actions: Record<string, (event: KeyboardEvent) => void>) {
  // As soon as the screen is there its keys are: nobody waits for what they already see.
  useLayoutEffect(() => {
    const pressed = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement
      if (event.ctrlKey || event.metaKey || event.altKey || event.defaultPrevented) return
      // A box that is ticked takes no letters.
      if (target.closest('input:not([type=checkbox], [type=radio]), textarea, select, dialog[open]')) return
      const action = actions[event.key]
      if (!action) return
      event.preventDefault()
      action(event)
    }
    window.addEventListener('keydown', pressed)
    return () => {
      window.removeEventListener('keydown', pressed)
    }
  }, [actions])
}
