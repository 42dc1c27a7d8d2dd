import { useQuery } from '@tanstack/react-query'
import { queries } from './queries'

/** Heat over all runs. */
export const useThrottling = () => useQuery(queries.throttling())
