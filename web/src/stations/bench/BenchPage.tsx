import { useCallback, useMemo, useRef, useState } from 'react'
import { Link, useNavigate, useSearchParams } from 'react-router'
import { benchApi, type Lane } from '../../api/bench'
import type { Arrived } from '../../api/outbox'
import { useBench, useSecond } from '../../api/useBench'
import { useKeys } from '../../ui/useKeys'
import { clockAt } from '../../ui/times'
import { useSay } from '../../ui/Undo'
import { useWidth } from '../../ui/useWidth'
import { AsideLanes } from './AsideLanes'
import { axisOf, hours, nowX, xAt, zoneOf } from './axis'
import { Calls } from './Calls'
import { EntryHelp } from './EntryHelp'
import { EntryLine } from './EntryLine'
import { LaneRow } from './LaneRow'

const TALL_FOR = 3
const FACTS_PX = 278
const NARROW_PX = 520

/** The bench: every lane on one clock, the entry line below. */
export function BenchPage() {
  const bench = useBench()
  const now = new Date(useSecond())
  const navigate = useNavigate()
  const say = useSay()
  const [search, setSearch] = useSearchParams()
  const [ref, width] = useWidth()
  const help = useRef<HTMLDialogElement>(null)
  const [last, setLast] = useState('')
  const lanes = bench.lanes
  const asked = search.get('lane')
  const chosen = lanes.find((l) => l.view.name === asked) ?? lanes.find((l) => l.view.state === 'setting') ?? lanes[0]
  const choose = useCallback(
    (name: string) => {
      setSearch({ lane: name }, { replace: true })
    },
    [setSearch],
  )
  const step = (by: number) => {
    const at = lanes.findIndex((l) => l.view.id === chosen?.view.id)
    const next = lanes[Math.min(lanes.length - 1, Math.max(0, at + by))]
    if (next) choose(next.view.name)
  }
  useKeys({
    '/': () => document.querySelector<HTMLInputElement>('[data-entry-line]')?.focus(),
    s: () => void navigate('/bench/new'),
    d: () => {
      if (chosen) void next(chosen)
    },
    ArrowDown: () => {
      step(1)
    },
    ArrowUp: () => {
      step(-1)
    },
  })
  const zone = zoneOf(lanes)
  // On a phone the facts of a lane stand over its ribbon instead of beside it.
  const facts = width < NARROW_PX ? 0 : FACTS_PX
  const axis = axisOf(lanes, Math.max(200, width - facts - 12))
  const fullWatts = useMemo(() => fullOf(lanes), [lanes])
  const tall = (lane: Lane) => lanes.length <= TALL_FOR || lane.view.id === chosen?.view.id
  const logged = useCallback(
    ({ lane, said, run, packTest }: Arrived) => {
      setLast(`${lane.toLowerCase()} ${said}`)
      if (run) {
        say({ text: 'The lane has ended. Put charge limits and optimised charging back on.' })
        void navigate(`/runs/${run}`)
      } else if (packTest) {
        say({ text: 'The lane has ended. Its test stands among the packs.' })
        void navigate(`/packs?test=${packTest}`)
      }
    },
    [navigate, say],
  )
  return (
    <div className="flex h-full flex-col">
      <div className="min-h-0 flex-1 overflow-auto px-5 pt-3 pb-4 max-sm:px-2">
        <div className="flex flex-wrap items-baseline gap-x-4 gap-y-2">
          <h1 className="text-xl font-bold">Bench</h1>
          <span className="soft text-sm">
            {lanes.length === 0 ? 'no lane is open' : `${String(lanes.length)} lane${lanes.length > 1 ? 's' : ''} on one clock`} ·{' '}
            <span className="reading">{clockAt(now.toISOString(), zone)}</span>
            <span className="max-sm:hidden"> in {zone}</span>
          </span>
          <span className="ml-auto flex flex-wrap items-center gap-2 self-center max-sm:ml-0">
            <Calls lanes={lanes} />
            <Link to="/bench/spot" className="btn btn-sm btn-outline border-base-300 font-normal">
              Spot check
            </Link>
            <Link to="/bench/checks" className="btn btn-sm btn-outline border-base-300 font-normal">
              Meter check
            </Link>
            <Link to="/bench/new" className={`btn btn-sm max-sm:order-first ${chosen?.view.state === 'setting' ? 'btn-outline' : 'btn-primary'}`}>
              <span>
                Set up<span className="max-sm:sr-only"> a lane</span>
              </span>
            </Link>
          </span>
        </div>
        <Away reached={bench.reached} away={bench.away} waiting={bench.waiting} />
        <AsideLanes aside={bench.aside} zone={zone} />
        <div ref={ref} className="relative mt-2">
          {lanes.length > 0 && width > 0 && (
            <>
              <div className="relative h-5" style={{ marginLeft: facts }} aria-hidden="true">
                {hours(axis, now, zone).map((h) => (
                  <span key={h.minutes} className="soft reading absolute -translate-x-1/2 text-[11px] whitespace-nowrap" style={{ left: xAt(h.minutes, axis) }}>
                    {h.day && <b className="text-base-content font-sans font-semibold">{h.day} </b>}
                    {h.text}
                  </span>
                ))}
              </div>
              {lanes.some((l) => l.view.state === 'running') && (
                <div className="pointer-events-none absolute top-5 bottom-0" style={{ left: facts + nowX(axis) - 4 }} aria-hidden="true">
                  <div className="bg-primary/70 flex h-full w-2 justify-center">
                    <div className="bg-base-content h-full w-0.5" />
                  </div>
                </div>
              )}
              {lanes.map((lane) => (
                <LaneRow
                  key={lane.view.id}
                  lane={lane}
                  axis={axis}
                  narrow={facts === 0}
                  tall={tall(lane)}
                  chosen={lane.view.id === chosen?.view.id}
                  fullWatts={fullWatts}
                  onChoose={() => {
                    choose(lane.view.name)
                  }}
                />
              ))}
            </>
          )}
          {bench.known && lanes.length === 0 && <Empty />}
        </div>
      </div>
      <EntryLine last={last || lastOf(lanes)} onLogged={logged} onHelp={() => help.current?.showModal()} />
      <EntryHelp ref={help} />
    </div>
  )
}

/** Do what is next on a lane: tick its next step, or place the phone. */
async function next(lane: Lane) {
  const { view } = lane
  if (view.state !== 'setting' || !view.next_step) return
  const field = document.querySelector<HTMLInputElement>('[data-step-field]')
  if (view.phone_on) await benchApi.placeAlready(view.id)
  else if (view.next_step === 'place') await benchApi.place(view.id)
  else if (field) field.focus()
  else await benchApi.step(view.id, view.next_step, { state: 'done', reason: '' })
}

function fullOf(lanes: Lane[]): number {
  let most = 5
  for (const lane of lanes) {
    for (const w of lane.watts) if (w !== null && w !== undefined && w > most) most = w
    for (const w of lane.ghost?.watts ?? []) if (w > most) most = w
  }
  return most
}

function lastOf(lanes: Lane[]): string {
  const all = lanes.flatMap((l) => l.view.entries.filter((e) => !e.undone).map((e) => ({ name: l.view.name, e })))
  return all
    .slice(0, 3)
    .map(({ name, e }) => `${name.toLowerCase()} ${e.said}`)
    .join(' · ')
}

function Away({ reached, away, waiting }: { reached: boolean; away: boolean; waiting: number }) {
  if (reached && !away) return null
  return (
    <div role="alert" className="border-warning bg-accent text-accent-content mt-2 border-l-4 px-3 py-1.5 text-sm">
      {!reached ? (
        <>
          <b>The application does not answer.</b> What you type is kept in this browser and sent once it is back.
        </>
      ) : (
        <>
          <b>The database does not answer.</b> {waiting > 0 ? `${String(waiting)} readings wait on disk` : 'Readings wait on disk'}, and are stored once it is back.
        </>
      )}
    </div>
  )
}

function Empty() {
  return (
    <div className="max-w-xl py-10">
      <p className="text-lg font-semibold">Set up a lane for the first phone.</p>
      <p className="mt-2">
        A lane is one run while it is made: it follows the meter, calls for each check-in and warns when something is odd. Without a meter or a phone at hand, try it
        with stand-ins.
      </p>
      <p className="soft mt-3 text-sm">
        Lay phone and charger on something that does not burn, nothing metal between them; never leave the first run of an unknown charger alone.
      </p>
      <Link to="/bench/new" className="btn btn-primary mt-4">
        Set up a lane
      </Link>
    </div>
  )
}
