import { useQuery } from '@tanstack/react-query'
import { queries } from './queries'

/** What is understood of a line that is being typed; nothing is kept. */
export const useTypedKit = (line: string) => useQuery(queries.typedKit(line))
