import { useQuery } from '@tanstack/react-query'
import { useSettings } from '../reader/settings'
import { queries } from './queries'

/** One run, read; temperatures in its sentences follow the setting. */
export function useRun(id: string) {
  const { degrees } = useSettings()
  return useQuery(queries.run(id, degrees))
}
