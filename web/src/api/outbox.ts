import { byHeader, type Problem, type Shape } from './client'

type Logged = Shape['Logged']

/** A line that waits to be logged: it keeps its id, so that it is logged once however often it is sent. */
export interface Waiting {
  id: string
  line: string
  sure: boolean
  fahrenheit: boolean
  at: string
}

export type Outcome = { kind: 'logged'; logged: Logged } | { kind: 'asked'; logged: Logged } | { kind: 'waits' } | { kind: 'refused'; problem: Problem }

const AGAIN_MS = 1500

/** Lines on their way: sent at once, kept in this browser while the application or its database is away, then sent. */
export class Outbox {
  private waiting: Waiting[]
  private readonly listeners = new Set<() => void>()
  private timer = 0
  private sending = false

  constructor(
    private readonly path: string,
    private readonly key: string,
  ) {
    this.waiting = JSON.parse(localStorage.getItem(key) ?? '[]') as Waiting[]
    window.addEventListener('online', () => void this.flush())
    if (this.waiting.length > 0) this.again()
  }

  now = () => this.waiting

  subscribe = (listener: () => void) => {
    this.listeners.add(listener)
    return () => {
      this.listeners.delete(listener)
    }
  }

  /** Log a line; what is odd about it comes back to be asked, and what cannot be sent waits. */
  async log(line: string, sure: boolean, fahrenheit: boolean): Promise<Outcome> {
    const one: Waiting = { id: crypto.randomUUID(), line, sure, fahrenheit, at: new Date().toISOString() }
    if (this.waiting.length > 0) {
      this.keep({ ...one, sure: true })
      return { kind: 'waits' }
    }
    const outcome = await this.send(one)
    if (outcome.kind === 'waits') this.keep({ ...one, sure: true })
    return outcome
  }

  private async send(one: Waiting): Promise<Outcome> {
    const answer = await fetch(this.path, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json', ...byHeader() },
      body: JSON.stringify(one),
    }).catch(() => null)
    if (answer === null || answer.status >= 502) return { kind: 'waits' }
    if (!answer.ok) return { kind: 'refused', problem: (await answer.json()) as Problem }
    const logged = (await answer.json()) as Logged
    return { kind: logged.logged ? 'logged' : 'asked', logged }
  }

  private keep(one: Waiting) {
    this.store([...this.waiting, one])
    this.again()
  }

  private store(waiting: Waiting[]) {
    this.waiting = waiting
    localStorage.setItem(this.key, JSON.stringify(waiting))
    for (const listener of this.listeners) listener()
  }

  private again() {
    clearTimeout(this.timer)
    this.timer = window.setTimeout(() => void this.flush(), AGAIN_MS)
  }

  private async flush() {
    if (this.sending) return
    this.sending = true
    try {
      for (let first = this.waiting[0]; first; first = this.waiting[0]) {
        const outcome = await this.send(first)
        if (outcome.kind === 'waits') {
          this.again()
          return
        }
        // What is refused now would be refused for ever; its lane has ended meanwhile.
        this.store(this.waiting.slice(1))
      }
    } finally {
      this.sending = false
    }
  }
}

export const outbox = new Outbox('/api/bench/lines', 'jaunecharge.lines')
