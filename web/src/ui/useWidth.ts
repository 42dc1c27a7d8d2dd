import { useEffect, useRef, useState, type RefObject } from 'react'

/** The width of an element in pixels as it changes, and the ref to give it. */
export function useWidth(): [RefObject<HTMLDivElement | null>, number] {
  const ref = useRef<HTMLDivElement>(null)
  const [width, setWidth] = useState(0)
  useEffect(() => {
    const element = ref.current
    if (!element) return
    const watch = new ResizeObserver(() => {
      setWidth(element.clientWidth)
    })
    watch.observe(element)
    return () => {
      watch.disconnect()
    }
  }, [])
  return [ref, width]
}
