import { useState } from 'react'
import { Check, Circle, CircleDot, Minus, type LucideIcon } from 'lucide-react'
import { useMutation } from '@tanstack/react-query'
import { benchApi, laneNow, type Lane } from '../../api/bench'
import { outbox } from '../../api/outbox'
import { ProblemLine } from '../../ui/Problem'
import { useSettings } from '../../reader/settings'

const MARK: Record<string, LucideIcon> = { open: Circle, seen: CircleDot, ticked: Check, skipped: Minus }
const SAID: Record<string, string> = { open: 'to do', seen: 'seen by the instruments', ticked: 'done', skipped: 'skipped' }

/** Setting the bench: the short ordered list; the next step is the strongest thing. */
export function SettingSteps({ lane }: { lane: Lane }) {
  const { view } = lane
  const [skipping, setSkipping] = useState('')
  const [reason, setReason] = useState('')
  const { degrees } = useSettings()
  const tell = useMutation({
    mutationFn: ({ key, state, why }: { key: string; state: 'done' | 'skipped' | 'open'; why?: string }) =>
      benchApi.step(view.id, key, { state, reason: why ?? '' }),
    onSuccess: () => {
      setSkipping('')
      setReason('')
    },
  })
  const [placedAt, setPlacedAt] = useState(0)
  const place = useMutation({
    mutationFn: () => benchApi.place(view.id),
    onSuccess: () => {
      setPlacedAt(laneNow(lane))
    },
  })
  const skippedName = view.steps.find((s) => s.key === skipping)?.said ?? ''
  return (
    <div className="bg-base-100 [section[data-chosen]_&]:bg-base-200 relative z-10">
      <ol aria-label={`setting lane ${view.name}`} className="grid grid-cols-2 gap-x-8 max-lg:grid-cols-1">
        {view.steps.map((s, i) => {
          const next = s.key === view.next_step
          const Mark = MARK[s.state] ?? Circle
          return (
            <li key={s.key} className={`flex items-baseline gap-2 py-0.5 text-sm ${next ? 'font-semibold' : ''}`}>
              <span className="reading soft w-4 text-right text-xs">{i + 1}</span>
              <span role="img" aria-label={SAID[s.state]} title={SAID[s.state]} className="relative top-0.5 w-3.5 self-start">
                <Mark size={14} strokeWidth={s.state === 'open' ? 1.5 : 2.5} aria-hidden="true" />
              </span>
              <span className="min-w-0 grow">
                {s.said}
                {s.value && <span className="reading font-normal"> {s.value}</span>}
                {s.reason && <span className="soft font-normal"> {s.reason}</span>}
                {s.odd && <span className="text-warning block text-xs font-normal">{s.odd}</span>}
              </span>
              {s.key !== 'place' && (
                <span className="flex shrink-0 gap-1">
                  {s.state === 'open' && !next && !(s.key in FIGURES) && (
                    <button className="btn btn-ghost btn-xs font-normal" onClick={() => { tell.mutate({ key: s.key, state: 'done' }) }} aria-label={`${s.said}: done`}>
                      done
                    </button>
                  )}
                  {s.state === 'open' && (
                    <button className="btn btn-ghost btn-xs font-normal" onClick={() => { setSkipping(s.key) }} aria-label={`${s.said}: skip`}>
                      skip
                    </button>
                  )}
                  {(s.state === 'ticked' || s.state === 'skipped') && (
                    <button className="btn btn-ghost btn-xs font-normal" onClick={() => { tell.mutate({ key: s.key, state: 'open' }) }} aria-label={`${s.said}: open again`}>
                      undo
                    </button>
                  )}
                </span>
              )}
            </li>
          )
        })}
      </ol>
      {skipping ? (
        <form
          className="mt-2 flex items-center gap-2"
          onSubmit={(e) => {
            e.preventDefault()
            tell.mutate({ key: skipping, state: 'skipped', why: reason })
          }}
        >
          <input
            className="input input-sm w-80"
            autoFocus
            aria-label={`why skip “${skippedName}”`}
            placeholder={`why skip “${skippedName}”? The run keeps the reason`}
            value={reason}
            maxLength={300}
            onChange={(e) => {
              setReason(e.target.value)
            }}
          />
          <button className="btn btn-primary btn-sm" disabled={!reason.trim()}>
            Skip it
          </button>
          <button type="button" className="btn btn-ghost btn-sm font-normal" onClick={() => { setSkipping('') }}>
            Cancel
          </button>
        </form>
      ) : view.phone_on ? (
        <OnAlready lane={lane} />
      ) : (
        <NextStep lane={lane} onDone={(key) => { tell.mutate({ key, state: 'done' }) }} onPlace={() => { place.mutate() }} waits={place.isPending || (place.isSuccess && laneNow(lane) - placedAt < 20 * view.speed)} fahrenheit={degrees === 'F'} />
      )}
      {(tell.error ?? place.error) && <ProblemLine error={tell.error ?? place.error} />}
    </div>
  )
}

/** A phone lies on the charger, and nobody placed it: both ways to go on. */
function OnAlready({ lane }: { lane: Lane }) {
  const { view } = lane
  const already = useMutation({ mutationFn: () => benchApi.placeAlready(view.id) })
  return (
    <div role="status" className="border-base-content bg-accent text-accent-content mt-2 flex flex-wrap items-center gap-x-3 gap-y-1 border-l-4 px-3 py-1.5 text-sm">
      <span>
        <b>A phone is on it already{view.watts !== null && `: ${view.watts.toFixed(1)} W`}.</b> Take it off: the no-load is read, and the run starts when you place it again.
      </span>
      <button className="btn btn-sm btn-outline font-normal" disabled={already.isPending} onClick={() => { already.mutate() }}>
        Continue without the no-load
      </button>
      {already.isError && <ProblemLine error={already.error} />}
    </div>
  )
}

/** Steps that are done by a figure, and its unit. */
const FIGURES: Record<string, { unit: string; name: string }> = { volts: { unit: 'V', name: 'volts' }, no_load: { unit: 'W', name: 'no-load watts' } }

/** A figure that a meter shows, typed where it is asked for. */
function NoteFigure({ lane, step }: { lane: Lane; step: string }) {
  const { name, unit } = FIGURES[step] ?? { name: '', unit: '' }
  const [typed, setTyped] = useState('')
  const fits = /^\d{1,3}([.,]\d{1,4})?$/.test(typed.trim())
  return (
    <form
      className="mt-2 flex items-center gap-2"
      onSubmit={(e) => {
        e.preventDefault()
        if (!fits) return
        outbox.log(`${lane.view.name.toLowerCase()} ${typed.trim()}${unit.toLowerCase()}`, false, false)
        setTyped('')
      }}
    >
      <span className="input input-sm w-28">
        <input data-step-field className="reading min-w-0 grow" inputMode="decimal" aria-label={`${name}, ${unit}`} value={typed} onChange={(e) => { setTyped(e.target.value) }} />
        <span className="soft">{unit}</span>
      </span>
      <button className="btn btn-primary btn-sm" disabled={!fits}>
        Note the {name}
      </button>
      <span className="soft text-sm">as the meter shows them, or skip it</span>
    </form>
  )
}

/** What is asked of a step that no instrument ticks, said as one button, or as what to type. */
function NextStep(props: { lane: Lane; onDone: (key: string) => void; onPlace: () => void; waits: boolean; fahrenheit: boolean }) {
  const { view } = props.lane
  const step = view.steps.find((s) => s.key === view.next_step)
  if (!step) return null
  const lane = view.name.toLowerCase()
  const unit = props.fahrenheit ? '75f' : '24c'
  const typed: Record<string, string> = { percent: `${lane} ${view.start_percent.toFixed(0)}`, cool: `${lane} ${unit} ${unit} room` }
  if (step.key === 'place')
    return (
      <div className="mt-2 flex items-center gap-3">
        <button className="btn btn-primary btn-sm" onClick={props.onPlace} disabled={props.waits}>
          {view.simulated ? 'Have the stand-in place the phone' : 'The phone is placed'}
        </button>
        <span className="soft text-sm">
          {props.waits ? 'waiting for the meter to see it …' : view.meter ? 'or just place it: the meter sees the rise' : 'press it as the phone touches the charger'}
        </span>
      </div>
    )
  if (step.key in FIGURES && !step.value) return <NoteFigure key={step.key} lane={props.lane} step={step.key} />
  return (
    <div className="mt-2 flex items-center gap-3">
      <button className="btn btn-primary btn-sm" onClick={() => { props.onDone(step.key) }}>
        Done: {step.said}
      </button>
      {typed[step.key] && (
        <span className="soft text-sm">
          or type <kbd className="reading">{typed[step.key]}</kbd> below
        </span>
      )}
    </div>
  )
}
