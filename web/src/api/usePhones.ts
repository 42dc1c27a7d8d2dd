import { useQuery } from '@tanstack/react-query'
import { queries } from './queries'

/** Phones that were tested before. */
export const usePhones = () => useQuery(queries.phones())
