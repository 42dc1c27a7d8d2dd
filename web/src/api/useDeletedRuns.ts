import { useQuery } from '@tanstack/react-query'
import { queries } from './queries'

/** Runs that were deleted and can be brought back. */
export const useDeletedRuns = () => useQuery(queries.deletedRuns())
