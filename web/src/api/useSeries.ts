import { useQuery } from '@tanstack/react-query'
import { queries } from './queries'

/** The curves of a run, or of a stretch of it, thinned to the screen. */
export const useSeries = (id: string, revision: number, range: [number, number] | null) => useQuery(queries.series(id, revision, range))
