import { useQuery } from '@tanstack/react-query'
import { queries } from './queries'

/** Habits, tariff and the reference run. */
export const useBenchSettings = () => useQuery(queries.settings())
