import createClient, { type Middleware } from 'openapi-fetch'
import { inReadersDegrees } from '../reader/degrees'
import { storedDegrees, storedName } from '../reader/settings'
import type { components, paths } from './schema'
import { keepsLast } from './shownLast'

export type Shape = components['schemas']
export type Problem = Shape['Problem']

/** A refusal of the application: what is wrong, where, and what would mend it. */
export class Refused extends Error {
  constructor(readonly problem: Problem) {
    super(sayProblem(problem))
  }
}

/** A problem in one line, as a person would say it. */
export function sayProblem(problem: Problem): string {
  const place = [problem.file, problem.row ? `row ${String(problem.row)}` : ''].filter(Boolean).join(', ')
  const words = [problem.detail, problem.mend].filter(Boolean).join('; ')
  return place ? `${place}: ${words}` : words
}

/** The name of the person, as the application wants it in a header. */
export function byHeader(): Record<string, string> {
  return { 'Jaunecharge-By': encodeURIComponent(storedName()) }
}

const signed: Middleware = {
  onRequest({ request }) {
    for (const [name, value] of Object.entries(byHeader())) request.headers.set(name, value)
    return request
  },
  async onResponse({ request, response }) {
    // Who is no longer signed in is led there; nothing that was typed in forms is sent.
    if (response.status === 401 && window.location.pathname !== '/sign-in') window.location.assign('/sign-in')
    const degrees = storedDegrees()
    // A finding states its temperatures in the unit in which it was drawn up: it is published as it stands.
    if (degrees === 'C' || new URL(request.url).pathname.startsWith('/api/findings') || !response.ok || !response.headers.get('content-type')?.startsWith('application/json')) return response
    const answer: unknown = await response.json()
    return new Response(JSON.stringify(inReadersDegrees(answer, degrees)), { status: response.status, headers: { 'content-type': 'application/json' } })
  },
}

export const api = createClient<paths>()
api.use(signed)
// Asked last of what comes in, so that answers are kept as the bench gave them.
api.use(keepsLast)

const SILENT: Problem = {
  type: 'about:blank',
  title: 'No answer',
  status: 0,
  detail: 'the application does not answer',
  mend: 'see whether it still runs, then try again',
  file: '',
  row: null,
  flaws: [],
}

/** What the browser itself refuses, said as the application would. */
export const refused = (detail: string, mend: string) => new Refused({ ...SILENT, title: 'Refused', detail, mend })

/** The data of an answer, or the refusal thrown. */
export function taken<T>(answer: { data?: T; error?: unknown; response: Response }): T {
  if (answer.error !== undefined || !answer.response.ok) throw new Refused(asProblem(answer.error))
  return answer.data as T
}

export function asProblem(error: unknown): Problem {
  if (error instanceof Refused) return error.problem
  if (typeof error === 'object' && error !== null && 'detail' in error) return { ...SILENT, ...(error as Problem) }
  return SILENT
}
