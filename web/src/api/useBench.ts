import { useEffect, useMemo, useState, useSyncExternalStore } from 'react'
import { inReadersDegrees } from '../reader/degrees'
import { useSettings } from '../reader/settings'
import { whole, type Bench, type LiveBench } from './bench'
import { outbox, type Outbox } from './outbox'

/** The bench, kept in step with the application. */
export function useBench(live: LiveBench = whole): Bench {
  const bench = useSyncExternalStore(live.subscribe, live.now)
  const { degrees } = useSettings()
  return useMemo(
    () => (degrees === 'C' ? bench : { ...bench, lanes: bench.lanes.map((l) => ({ ...l, view: inReadersDegrees(l.view, degrees) })) }),
    [bench, degrees],
  )
}

/** Lines that wait until they can be logged. */
export function useWaiting(box: Outbox = outbox) {
  return useSyncExternalStore(box.subscribe, box.now)
}

/** A beat a second, so that ages and clocks go on without news. */
export function useSecond(): number {
  const [second, setSecond] = useState(() => Date.now())
  useEffect(() => {
    const timer = setInterval(() => {
      setSecond(Date.now())
    }, 1000)
    return () => {
      clearInterval(timer)
    }
  }, [])
  return second
}
