import { v4 as newId } from 'uuid'
import type { Shape } from './client'
import { Stored } from './stored'

/** What the browser tells of the battery (Battery Status API, W3C working draft). */
interface Battery extends EventTarget {
  level: number
  charging: boolean
}

interface Level {
  id: string
  percent: number
  charging: boolean
  at: string
}

export type Screen = Shape['Reports']['screen']

/** Why this browser cannot report: it tells no page the level, or none that came without TLS. */
export type Unable = 'no TLS' | 'not told'

export interface Reporting {
  state: 'off' | 'starting' | 'on' | 'elsewhere' | 'over'
  percent: number | null
  charging: boolean
  lastAt: Date | null
  /** Reports that have not arrived yet. */
  waiting: number
  /** The last time that the browser slept: nothing is known of the level then. */
  slept: [Date, Date] | null
  refused: string
}

const STILL_MS = 60_000
/** Later than this, a minute's report was not late: the browser slept. */
const SLEPT_MS = 2.5 * STILL_MS
const AGAIN_MS = 2000
const PATIENCE_MS = 20_000
const OFF: Reporting = { state: 'off', percent: null, charging: false, lastAt: null, waiting: 0, slept: null, refused: '' }

export const unable = (): Unable | null => ('getBattery' in navigator ? null : window.isSecureContext ? 'not told' : 'no TLS')

/** The phone's level as its own browser tells it: each change at once, and each minute that it still stands, so that
 * silence is known from a level that does not move. What cannot be sent is kept, and sent once. */
export class PhoneReporter {
  private told = OFF
  private readonly listeners = new Set<() => void>()
  private readonly stored: Stored<Level>
  private levels: Level[]
  private battery: Battery | null = null
  private last: Level | null = null
  private ticked = 0
  private minutes = 0
  private retry = 0
  private sending = false
  private release: (() => void) | null = null
  /** Counts starts and stops: what began before a stop goes no further. */
  private turn = 0
  /** The screen that the bench has still to be told. */
  private screen: Screen | null = null
  private lit = false
  private wake: WakeLockSentinel | null = null

  constructor(private readonly token: string) {
    this.stored = new Stored(`jaunecharge.level.${token}`)
    this.levels = this.stored.found()
    if (this.levels.length > 0) this.again()
  }

  now = () => this.told

  subscribe = (listener: () => void) => {
    this.listeners.add(listener)
    return () => {
      this.listeners.delete(listener)
    }
  }

  /** Report from now on, until `stop`; one window of a phone does. */
  async start() {
    if (this.battery ?? this.told.state === 'starting') return
    this.tell({ state: 'starting' })
    const turn = ++this.turn
    const held = await new Promise<boolean>((decided) => {
      void navigator.locks.request(`jaunecharge.level.${this.token}`, { ifAvailable: true }, (lock) => {
        decided(lock !== null)
        return lock === null ? undefined : new Promise<void>((release) => (this.release = release))
      })
    })
    if (!held) {
      if (turn === this.turn) this.tell({ state: 'elsewhere' })
      return
    }
    const battery = await (navigator as unknown as { getBattery: () => Promise<Battery> }).getBattery()
    if (turn !== this.turn) {
      this.release?.()
      return
    }
    this.battery = battery
    this.battery.addEventListener('levelchange', this.changed)
    this.battery.addEventListener('chargingchange', this.changed)
    window.addEventListener('online', this.flush)
    document.addEventListener('visibilitychange', this.seen)
    this.minutes = window.setInterval(this.still, STILL_MS)
    this.tell({ state: 'on' })
    this.ticked = Date.now()
    this.report()
  }

  /** End reporting; what waits is sent all the same. */
  stop() {
    this.turn += 1
    this.battery?.removeEventListener('levelchange', this.changed)
    this.battery?.removeEventListener('chargingchange', this.changed)
    window.removeEventListener('online', this.flush)
    document.removeEventListener('visibilitychange', this.seen)
    clearInterval(this.minutes)
    this.battery = null
    this.release?.()
    this.release = null
    void this.wake?.release()
    this.wake = null
    this.tell({ state: 'off' })
  }

  /** State with which screen it reports: that is told to the bench once it answers. */
  show(screen: Screen) {
    this.screen = screen
    this.lit = screen !== 'off'
    if (screen === 'off') void this.wake?.release()
    else void this.stayAwake()
    void this.flush()
  }

  private tell(next: Partial<Reporting>) {
    this.told = { ...this.told, waiting: this.levels.length, ...next }
    for (const listener of this.listeners) listener()
  }

  private readonly changed = () => {
    const at = Date.now()
    const before = this.last
    // The page was awake until now: the level stood until just before.
    if (before && at - this.ticked < SLEPT_MS && this.percent() !== before.percent && at - Date.parse(before.at) > 2000)
      this.put({ ...before, id: newId(), at: new Date(at - 1000).toISOString() })
    if (this.percent() !== before?.percent || this.battery?.charging !== before.charging) this.report()
    this.tick()
  }

  private readonly still = () => {
    this.tick()
    this.report()
  }

  private readonly seen = () => {
    if (document.visibilityState !== 'visible') return
    this.still()
    if (this.lit) void this.stayAwake()
  }

  private tick() {
    const now = Date.now()
    if (now - this.ticked > SLEPT_MS) this.tell({ slept: [new Date(this.ticked), new Date(now)] })
    this.ticked = now
  }

  private percent = () => Math.round((this.battery?.level ?? 0) * 1000) / 10

  private report() {
    if (!this.battery) return
    this.put({ id: newId(), percent: this.percent(), charging: this.battery.charging, at: new Date().toISOString() })
    this.tell({ percent: this.last?.percent ?? null, charging: this.battery.charging })
  }

  private put(level: Level) {
    this.last = level
    this.levels.push(level)
    this.stored.keep(level)
    this.tell({})
    void this.flush()
  }

  private readonly flush = async () => {
    if (this.sending) return
    this.sending = true
    try {
      if (!(await this.screenTold())) {
        this.again()
        return
      }
      for (let level = this.levels[0]; level; level = this.levels[0]) {
        const status = await this.send(level)
        if (status === 401) {
          this.over()
          return
        }
        if (status !== 200 && status !== 422) {
          this.again()
          return
        }
        const { id, at } = level
        this.levels = this.levels.filter((l) => l.id !== id)
        this.stored.forget(id)
        this.tell(status === 200 ? { lastAt: new Date(at) } : {})
      }
    } finally {
      this.sending = false
      // Another screen was chosen while levels went out.
      if (this.screen !== null) this.again()
    }
  }

  private async send(level: Level): Promise<number> {
    try {
      const answer = await fetch(`/api/hand/${this.token}/level`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json' },
        body: JSON.stringify({ ...level, sent: new Date().toISOString() }),
        signal: AbortSignal.timeout(PATIENCE_MS),
      })
      if (answer.status === 422) this.tell({ refused: ((await answer.json()) as Shape['Problem']).detail })
      return answer.status
    } catch {
      return 0
    }
  }

  /** Whether the bench knows with which screen the phone reports. */
  private async screenTold(): Promise<boolean> {
    const { screen } = this
    if (screen === null) return true
    try {
      const answer = await fetch(`/api/hand/${this.token}/reporting`, {
        method: 'PUT',
        headers: { 'Content-Type': 'application/json' },
        body: JSON.stringify({ screen } satisfies Shape['Reports']),
        signal: AbortSignal.timeout(PATIENCE_MS),
      })
      if (answer.status >= 500) return false
    } catch {
      return false
    }
    if (this.screen === screen) this.screen = null
    return true
  }

  private over() {
    for (const { id } of this.levels) this.stored.forget(id)
    this.levels = []
    this.stop()
    this.tell({ state: 'over' })
  }

  private again() {
    clearTimeout(this.retry)
    this.retry = window.setTimeout(() => void this.flush(), AGAIN_MS)
  }

  private async stayAwake() {
    if (!('wakeLock' in navigator)) return
    try {
      this.wake = await navigator.wakeLock.request('screen')
    } catch {
      // Refused, as with a battery saver: the page says what to do.
    }
  }
}
