import { useQuery } from '@tanstack/react-query'
import { queries } from './queries'

/** All runs, the newest first. */
export const useRuns = () => useQuery(queries.runs())
