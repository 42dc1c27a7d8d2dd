import { v4 as newId } from 'uuid'
import { byHeader, sayProblem, type Problem, type Shape } from './client'
import { Stored } from './stored'

type Logged = Shape['Logged']
type Echo = Shape['Echo']

/** A line as it was typed: it keeps its id, so that it is logged once however often it is sent. */
interface Line {
  id: string
  line: string
  sure: boolean
  fahrenheit: boolean
  at: string
}

/** A line on its way: `sending`; `waits` for the application or its database; `held`, because something is asked first. */
export interface Queued extends Line {
  state: 'sending' | 'waits' | 'held'
  /** What is asked about a held line: something odd, or that it was not understood or was refused. */
  asked?: Asked
}

export interface Asked {
  /** Whether it can be logged as it stands. */
  sure: boolean
  said: string
  instead?: Echo['instead']
}

/** A line that was logged. */
export interface Arrived {
  line: string
  said: string
  lane: string
  run: string | null
  packTest: string | null
}

const AGAIN_MS = 1500
/** An answer that does not come in so long will not come; the line is sent again, and counts once. */
const PATIENCE_MS = 20_000
/** A line on which the application fails so often is held, so that those behind it are logged. */
const MOST_FAILURES = 3
const TAKES_BACK = /^(?:([a-z][0-9]{0,2})\s+)?(?:u|undo)$/i
const LANE = /^([a-z][0-9]{0,2})\s/i

/** Lines on their way to the bench, in the order of typing: typing never waits for them, and none of them is lost. */
export class Outbox {
  private lines: Queued[]
  private readonly stored: Stored<Queued>
  private readonly listeners = new Set<() => void>()
  private readonly hearers = new Set<(arrived: Arrived) => void>()
  private timer = 0
  private sending = false
  private failed: { id: string; times: number } | null = null

  constructor(
    private readonly path: string,
    key: string,
  ) {
    this.stored = new Stored(key)
    this.lines = this.stored.found()
    window.addEventListener('online', () => void this.flush())
    if (this.lines.some((l) => l.state !== 'held')) this.again()
  }

  now = () => this.lines

  subscribe = (listener: () => void) => {
    this.listeners.add(listener)
    return () => {
      this.listeners.delete(listener)
    }
  }

  /** Hear of every line that was logged. */
  hear = (hearer: (arrived: Arrived) => void) => {
    this.hearers.add(hearer)
    return () => {
      this.hearers.delete(hearer)
    }
  }

  /** Put a line behind those that are on their way; `sure` : what is odd about it was asked already. */
  log(line: string, sure: boolean, fahrenheit: boolean): void {
    this.put({ id: newId(), line: line.trim(), sure, fahrenheit, at: new Date().toISOString(), state: 'sending' })
    void this.flush()
  }

  /** Log a held line after all, as it stands or as it was meant. */
  confirm(id: string, meant?: string): void {
    const held = this.lines.find((l) => l.id === id)
    if (held?.state !== 'held') return
    // Another id: under the old one nothing was logged, but it may have been told to somebody.
    const line: Queued = { id: newId(), line: meant ?? held.line, sure: true, fahrenheit: held.fahrenheit, at: held.at, state: 'sending' }
    this.drop(id)
    this.put(line)
    void this.flush()
  }

  /** Throw a line away; the line, so that it may be typed again. */
  drop(id: string): string {
    const gone = this.lines.find((l) => l.id === id)
    this.set(this.lines.filter((l) => l.id !== id))
    this.stored.forget(id)
    return gone?.line ?? ''
  }

  private async flush() {
    if (this.sending) return
    this.sending = true
    try {
      for (let first = this.next(); first; first = this.next()) {
        if (this.takesBack(first)) continue
        const outcome = await this.send(first)
        if (outcome === null) {
          // All of them wait. Nobody was there to be asked when they were typed: what is odd about them is logged.
          for (const line of this.lines) if (line.state === 'sending') this.change(line.id, { state: 'waits', sure: true })
          this.again()
          return
        }
        if ('logged' in outcome && outcome.logged) {
          this.drop(first.id)
          const { echo, run, pack_test: packTest } = outcome
          for (const hearer of this.hearers) hearer({ line: first.line, said: (echo.said ?? []).join(', '), lane: echo.lane ?? '', run: run ?? null, packTest: packTest ?? null })
        } else this.change(first.id, { state: 'held', asked: askedOf(outcome) })
      }
    } finally {
      this.sending = false
    }
  }

  private next = () => this.lines.find((l) => l.state !== 'held')

  /** An undo behind a line of its lane that is still asked about takes that line back, and nothing that was logged. */
  private takesBack(line: Queued): boolean {
    const undo = TAKES_BACK.exec(line.line)
    if (!undo) return false
    const lane = undo[1]?.toLowerCase()
    const held = this.lines.findLast((l) => l.state === 'held' && l.at <= line.at && (!lane || LANE.exec(l.line)?.[1]?.toLowerCase() === lane))
    if (!held) return false
    this.drop(held.id)
    this.drop(line.id)
    return true
  }

  /** What came of a line; null where nobody answered, or the database does not answer. */
  private async send({ id, line, sure, fahrenheit, at }: Line): Promise<Logged | Problem | null> {
    try {
      const answer = await fetch(this.path, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json', ...byHeader() },
        body: JSON.stringify({ id, line, sure, fahrenheit, at }),
        signal: AbortSignal.timeout(PATIENCE_MS),
      })
      // Who has to sign in first does so, and what was typed is sent then.
      if (answer.status > 500 || [401, 408, 429].includes(answer.status)) return null
      if (answer.status === 500 && (this.failed = this.failed?.id === id ? { id, times: this.failed.times + 1 } : { id, times: 1 }).times < MOST_FAILURES)
        return null
      return (await answer.json()) as Logged | Problem
    } catch {
      return null
    }
  }

  private again() {
    clearTimeout(this.timer)
    this.timer = window.setTimeout(() => void this.flush(), AGAIN_MS)
  }

  private change(id: string, change: Partial<Queued>) {
    this.set(this.lines.map((l) => (l.id === id ? { ...l, ...change } : l)))
    const changed = this.lines.find((l) => l.id === id)
    if (changed) this.stored.keep(changed)
  }

  private put(line: Queued) {
    this.set([...this.lines, line])
    this.stored.keep(line)
  }

  private set(lines: Queued[]) {
    this.lines = lines
    for (const listener of this.listeners) listener()
  }
}

function askedOf(answer: Logged | Problem): Asked {
  if (!('echo' in answer)) return { sure: false, said: sayProblem(answer) }
  const { echo } = answer
  if (!echo.understood) return { sure: false, said: `${echo.why ?? ''}; ${echo.mend ?? ''}` }
  return { sure: true, said: (echo.doubts ?? []).join(' '), instead: echo.instead }
}

export const outbox = new Outbox('/api/bench/lines', 'jaunecharge.lines')
