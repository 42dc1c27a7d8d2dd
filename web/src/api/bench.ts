import { keepShown, lastShown } from './shownLast'
import { v4 as newId } from 'uuid'
import { api, byHeader, Refused, taken, type Shape } from './client'

export type LaneView = Shape['LaneView']
export type LaneFull = Shape['LaneFull']
export type Echo = Shape['Echo']

/** A lane as this window knows it: its view, and the steps of its ribbon by index. */
export interface Lane {
  view: LaneView
  ghost: Shape['Ghost'] | null
  stepS: number
  /** A hole longer than this is not metered time, s. */
  holeS: number
  watts: (number | null)[]
  celsius: (number | null)[]
  /** When the view came in, by this window's own steady clock, ms. */
  heardAt: number
}

/** The bench as this window knows it. */
export interface Bench {
  lanes: Lane[]
  /** Whether the first answer is here. */
  known: boolean
  /** Whether the application answers. */
  reached: boolean
  away: boolean
  waiting: number
  /** Lanes that are open and cannot be shown. */
  aside: Shape['LaneAside'][]
  tick: number
}

interface Told {
  tick: number
  at: string
  figures: Record<string, [number, number | null, number | null, number | null, number | null, [number, number][], [number, number][]]>
  views: LaneView[]
  over: string[]
  away: boolean
  waiting: number
  aside: Shape['LaneAside'][]
}

const EMPTY: Bench = { lanes: [], known: false, reached: true, away: false, waiting: 0, aside: [], tick: -1 }
const AGAIN_MS = 2000

/** Where the bench is read from: all of it, or one lane in the hand. */
export interface Origin {
  all: string
  events: string
}

export const WHOLE: Origin = { all: '/api/bench', events: '/api/bench/events' }

/** Keeps the bench in step with the application: one answer, then its events, resumed where they broke off. */
export class LiveBench {
  private bench = EMPTY
  private readonly listeners = new Set<() => void>()
  private source: EventSource | null = null
  private timer = 0

  constructor(private readonly origin: Origin) {}

  now = () => this.bench

  subscribe = (listener: () => void) => {
    this.listeners.add(listener)
    if (this.listeners.size === 1) void this.begin()
    return () => {
      this.listeners.delete(listener)
      if (this.listeners.size === 0) this.end()
    }
  }

  private set(next: Partial<Bench>) {
    this.bench = { ...this.bench, ...next }
    for (const listener of this.listeners) listener()
  }

  private async begin() {
    try {
      const answer = await fetch(this.origin.all, { headers: byHeader() })
      keepShown({ method: 'GET', url: this.origin.all }, answer)
      if (answer.status === 410) {
        this.set({ lanes: [], known: true, reached: true })
        return
      }
      if (!answer.ok) throw new Error(String(answer.status))
      await this.show(answer, true)
      this.listen()
    } catch {
      this.set({ reached: false })
      const kept = this.bench.known ? null : await lastShown({ method: 'GET', url: this.origin.all })
      if (kept) await this.show(kept, false)
      this.again()
    }
  }

  private async show(answer: Response, reached: boolean) {
    const found = (await answer.json()) as Shape['BenchShape'] | LaneFull
    const fulls = 'lanes' in found ? found.lanes : [found]
    const rest = 'lanes' in found ? { tick: found.tick, away: found.away, waiting: found.waiting, aside: found.aside } : {}
    this.set({ lanes: fulls.map(laneOf), known: true, reached, ...rest })
  }

  private again() {
    clearTimeout(this.timer)
    if (this.listeners.size > 0) this.timer = window.setTimeout(() => void this.begin(), AGAIN_MS)
  }

  private listen() {
    this.source?.close()
    if (this.listeners.size === 0) return
    const source = new EventSource(`${this.origin.events}?after=${String(this.bench.tick)}`)
    this.source = source
    source.addEventListener('bench', (event: MessageEvent<string>) => {
      this.take(JSON.parse(event.data) as Told)
    })
    source.onopen = () => {
      if (!this.bench.reached) this.set({ reached: true })
    }
    source.onerror = () => {
      this.set({ reached: false })
      // A browser that has given up does not come back by itself.
      if (source.readyState === EventSource.CLOSED) this.again()
    }
  }

  private take(told: Told) {
    const views = new Map(told.views.map((v) => [v.id, v]))
    const known = new Set(this.bench.lanes.map((l) => l.view.id))
    const lanes = this.bench.lanes
      .filter((l) => !told.over.includes(l.view.id))
      .map((l) => changed(l, told.figures[l.view.id], views.get(l.view.id)))
    this.set({ lanes, tick: told.tick, away: told.away, waiting: told.waiting, aside: told.aside, reached: true })
    // A lane that was opened in another window comes whole.
    if (told.views.some((v) => !known.has(v.id))) {
      this.source?.close()
      void this.begin()
    }
  }

  private end() {
    clearTimeout(this.timer)
    this.source?.close()
    this.source = null
  }
}

function laneOf(full: LaneFull): Lane {
  const lane: Lane = {
    view: full.view,
    ghost: full.ghost,
    stepS: full.traced.step_s,
    holeS: full.traced.hole_s,
    watts: [],
    celsius: [],
    heardAt: performance.now(),
  }
  fill(lane.watts, full.traced.watts)
  fill(lane.celsius, full.traced.celsius)
  return lane
}

/** Puts means into their steps; steps between that nobody measured stay empty. */
function fill(steps: (number | null)[], means: readonly (readonly unknown[])[]) {
  for (const [index, mean] of means as [number, number][]) {
    while (steps.length < index) steps.push(null)
    steps[index] = mean
  }
}

function changed(lane: Lane, figures: Told['figures'][string] | undefined, view: LaneView | undefined): Lane {
  if (!figures && !view) return lane
  const next = { ...lane }
  if (figures) {
    const [t, watts, volts, hottest, , w, c] = figures
    fill(next.watts, w)
    fill(next.celsius, c)
    next.view = { ...next.view, watts: watts ?? next.view.watts, watts_s: t, volts: volts ?? next.view.volts, hottest_c: hottest ?? next.view.hottest_c }
  }
  if (view) {
    next.view = view
    next.heardAt = performance.now()
  }
  return next
}

/** The lane's own clock just now, s. */
export const laneNow = (lane: Lane) => lane.view.now_s + ((performance.now() - lane.heardAt) / 1000) * lane.view.speed

export const whole = new LiveBench(WHOLE)

/** What is understood of a line, before it is logged. */
export async function echoOf(line: string, fahrenheit: boolean, path: string, signal: AbortSignal): Promise<Echo> {
  const answer = await fetch(path, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ line, fahrenheit }),
    signal,
  })
  if (!answer.ok) throw new Refused((await answer.json()) as Shape['Problem'])
  return (await answer.json()) as Echo
}

export const benchApi = {
  open: async (body: Shape['NewLaneShape']) => taken(await api.POST('/api/lanes', { body })),
  step: async (id: string, key: string, body: Shape['StepTold']) =>
    taken(await api.POST('/api/lanes/{lane_id}/steps/{key}', { params: { path: { lane_id: id, key } }, body })),
  place: async (id: string) => taken(await api.POST('/api/lanes/{lane_id}/placed', { params: { path: { lane_id: id } } })),
  /** Go on with a phone that lay there before: without a no-load, from the first reading on. */
  placeAlready: async (id: string) => taken(await api.POST('/api/lanes/{lane_id}/placed', { params: { path: { lane_id: id }, query: { already: true } } })),
  movePlacing: async (id: string, at: string) => taken(await api.PUT('/api/lanes/{lane_id}/placed', { params: { path: { lane_id: id } }, body: { at } })),
  takeBackPlacing: async (id: string) => taken(await api.DELETE('/api/lanes/{lane_id}/placed', { params: { path: { lane_id: id } } })),
  end: async (id: string, body: Shape['Ended']) =>
    taken(await api.POST('/api/lanes/{lane_id}/ended', { params: { path: { lane_id: id } }, body })),
  fix: async (id: string, entry: string, line: string) =>
    taken(
      await api.PATCH('/api/lanes/{lane_id}/entries/{entry_id}', {
        params: { path: { lane_id: id, entry_id: entry } },
        body: { line, id: newId() },
      }),
    ),
  log: async (id: string) => taken(await api.GET('/api/lanes/{lane_id}/log', { params: { path: { lane_id: id } } })),
  link: async (id: string) => taken(await api.GET('/api/lanes/{lane_id}/link', { params: { path: { lane_id: id } } })),
  next: async () => taken(await api.GET('/api/bench/next')),
  help: async () => taken(await api.GET('/api/bench/help')),
  tryOut: async (address: string) => taken(await api.POST('/api/instruments/try', { body: { address } })),
}
