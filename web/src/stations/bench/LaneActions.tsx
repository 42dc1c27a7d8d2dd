import { v4 as newId } from 'uuid'
import { useState } from 'react'
import { useMutation } from '@tanstack/react-query'
import { useNavigate } from 'react-router'
import { benchApi, laneNow, type Lane } from '../../api/bench'
import { ProblemLine } from '../../ui/Problem'
import { useSay } from '../../ui/Undo'
import { useSettings } from '../../reader/settings'
import { degreesText } from '../../ui/format'
import { forField, inZone } from '../../ui/times'
import { apart } from '../../ui/times'
import { PackWalk } from '../../shared/PackWalk'
import { HandLink } from './HandLink'
import { LaneLog } from './LaneLog'

type Way = 'complete' | 'stopped early' | 'void'
type Open = '' | 'log' | 'link' | 'placed' | 'end'
const NAMES: Record<Exclude<Open, ''>, string> = { log: 'Log', link: 'On a phone', placed: 'Placed …', end: 'End …' }

/** Two distances, with their unit once where it is the same: `27 to 33 min`. */
function between(low: number, high: number): string {
  const [a, b] = [apart(low), apart(high)]
  const unit = / (s|min)$/.exec(b)?.[0] ?? ''
  return `${unit && a.endsWith(unit) && !a.includes(' h ') ? a.slice(0, -unit.length) : a} to ${b}`
}

/** What can be done with the chosen lane: its log, a phone in the hand, its end. */
export function LaneActions({ lane }: { lane: Lane }) {
  const { view } = lane
  const { degrees } = useSettings()
  const [open, setOpen] = useState<Open>('')
  const finish = view.finish
  const now = laneNow(lane)
  const hottest = [...view.places].filter((p) => p.phone).sort((a, b) => b.celsius - a.celsius)[0]
  const others = view.places.filter((p) => p !== hottest)
  return (
    <div className="bg-base-200 relative z-10 mt-1 pt-0.5 text-sm">
      <div className="soft flex flex-wrap items-center gap-x-4 gap-y-1 text-xs">
        <span title={view.method_said}>{view.method}</span>
        {finish?.likely_s != null && finish.likely_s > now && (
          <span>
            {finish.percent} % in about <b className="text-base-content">{apart(finish.likely_s - now)}</b>
            {finish.low_s != null && ` (${finish.high_s == null ? `${apart(finish.low_s - now)} at best; may not get there` : between(finish.low_s - now, finish.high_s - now)})`}
          </span>
        )}
        {finish && finish.likely_s == null && <span>may not reach {finish.percent} %</span>}
        {view.volts !== null && <span className="reading">{view.volts.toFixed(2)} V</span>}
        {others.map((p) => (
          <span key={p.place} className="reading">
            {p.place} {degreesText(p.celsius, degrees)} °{degrees}
          </span>
        ))}
        {view.humidity !== null && <span className="reading">humidity {view.humidity.toFixed(0)} %</span>}
        <span>{view.meter ? `meter ${view.meter}` : 'no meter: watts by hand'}</span>
        <span className="ml-auto flex gap-1">
          {(['log', 'link', ...(view.placed_s === null ? [] : ['placed' as const]), 'end'] as const).map((what) => (
            <button
              key={what}
              className="btn btn-ghost btn-xs font-normal"
              aria-expanded={open === what}
              onClick={() => {
                setOpen(open === what ? '' : what)
              }}
            >
              {NAMES[what]}
            </button>
          ))}
        </span>
      </div>
      {view.pack !== '' && <PackWalk label={view.pack} />}
      {open === 'log' && <LaneLog lane={lane} />}
      {open === 'link' && <HandLink lane={lane} />}
      {open === 'placed' && view.placed_s !== null && <Placed lane={lane} placedS={view.placed_s} onClose={() => { setOpen('') }} />}
      {open === 'end' && <EndLane lane={lane} onClose={() => { setOpen('') }} />}
    </div>
  )
}

/** When the phone was placed: moved, or taken back. */
function Placed({ lane, placedS, onClose }: { lane: Lane; placedS: number; onClose: () => void }) {
  const say = useSay()
  const { view } = lane
  const placed = new Date(new Date(view.opened_at).getTime() + (placedS / view.speed) * 1000)
  const [at, setAt] = useState(forField(placed, view.zone))
  const move = useMutation({
    mutationFn: () => benchApi.movePlacing(view.id, inZone(at, view.zone)),
    onSuccess: () => {
      say({ text: `Lane ${view.name}: placed at ${at.slice(11)}.` })
      onClose()
    },
  })
  const back = useMutation({
    mutationFn: () => benchApi.takeBackPlacing(view.id),
    onSuccess: () => {
      say({ text: `Lane ${view.name} waits for its phone again.` })
      onClose()
    },
  })
  return (
    <form
      aria-label={`placing of lane ${view.name}`}
      className="border-base-300 mt-1 flex flex-wrap items-center gap-x-3 gap-y-2 border px-3 py-2"
      onSubmit={(e) => {
        e.preventDefault()
        move.mutate()
      }}
    >
      <label className="flex items-center gap-2">
        <span className="soft">placed at</span>
        <input
          type="datetime-local"
          className="input input-sm w-52"
          aria-label="when the phone was placed"
          value={at}
          onChange={(e) => {
            setAt(e.target.value)
          }}
        />
        <span className="soft text-xs">{view.zone}</span>
      </label>
      <button className="btn btn-primary btn-sm" disabled={move.isPending || at === forField(placed, view.zone)}>
        Move it
      </button>
      <button type="button" className="btn btn-outline btn-sm font-normal" disabled={back.isPending} onClick={() => { back.mutate() }}>
        It was not placed
      </button>
      <button type="button" className="btn btn-ghost btn-sm font-normal" onClick={onClose}>
        Cancel
      </button>
      {(move.error ?? back.error) && <ProblemLine error={move.error ?? back.error} />}
    </form>
  )
}

const WAYS: { way: Way; said: string }[] = [
  { way: 'complete', said: 'complete' },
  { way: 'stopped early', said: 'stopped early' },
  { way: 'void', said: 'void' },
]

function EndLane({ lane, onClose }: { lane: Lane; onClose: () => void }) {
  const say = useSay()
  const navigate = useNavigate()
  const { view } = lane
  const [way, setWay] = useState<Way>(view.state === 'setting' ? 'void' : 'complete')
  const [reason, setReason] = useState('')
  const end = useMutation({
    mutationFn: () => benchApi.end(view.id, { outcome: way, reason, id: newId() }),
    onSuccess: (logged) => {
      const after = view.kind === 'load' || view.kind === 'recharge' ? '' : ' Put charge limits and optimised charging back on.'
      say({ text: `Lane ${view.name} has ended, ${way}.${after}` })
      if (logged.run && way === 'complete') void navigate(`/runs/${logged.run}`)
      else if (logged.pack_test && way !== 'void') void navigate(`/packs?pack=${encodeURIComponent(view.pack)}&test=${logged.pack_test}`)
    },
  })
  return (
    <form
      aria-label={`end lane ${view.name}`}
      className="border-base-300 mt-1 flex flex-wrap items-center gap-x-4 gap-y-2 border px-3 py-2"
      onSubmit={(e) => {
        e.preventDefault()
        end.mutate()
      }}
    >
      {WAYS.filter((w) => view.state !== 'setting' || w.way === 'void').map((w) => (
        <label key={w.way} className="flex items-center gap-1.5">
          <input
            type="radio"
            className="radio radio-xs"
            name="way"
            checked={way === w.way}
            onChange={() => {
              setWay(w.way)
            }}
          />
          {w.said}
        </label>
      ))}
      <input
        className="input input-sm w-64"
        aria-label="why"
        placeholder={way === 'complete' ? 'a remark, if you like' : 'why? The run keeps the reason'}
        value={reason}
        maxLength={300}
        onChange={(e) => {
          setReason(e.target.value)
        }}
      />
      <button className="btn btn-primary btn-sm" disabled={end.isPending || (way !== 'complete' && !reason.trim())}>
        End lane {view.name}
      </button>
      <button type="button" className="btn btn-ghost btn-sm font-normal" onClick={onClose}>
        Keep running
      </button>
      {end.error && <ProblemLine error={end.error} />}
    </form>
  )
}
