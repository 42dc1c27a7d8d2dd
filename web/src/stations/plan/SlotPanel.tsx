import { useState } from 'react'
import { Link } from 'react-router'
import type { Happening, Plan, Slot } from '../../api/usePlans'
import { usePlanChanges } from '../../api/usePlans'
import { ProblemLine } from '../../ui/Problem'
import { useSay } from '../../ui/Undo'
import { degreesText, duration } from '../../ui/format'
import { useSettings } from '../../reader/settings'
import { clockAt, forField, inZone, momentAt } from '../../ui/times'

const SAID: Record<Happening, string> = {
  drain: 'Drain begins',
  drained: 'It is drained',
  begin: 'It has begun',
  end: 'The run is over',
  cool: 'The phone is cool',
  void: 'Void …',
}

/** One run of the plan: what is expected of it, what has happened, what can happen next. */
export function SlotPanel({ plan, slot, onClose }: { plan: Plan; slot: Slot; onClose: () => void }) {
  const { degrees } = useSettings()
  const say = useSay()
  const changes = usePlanChanges()
  const zone = plan.wishes.zone ?? 'UTC'
  const [reason, setReason] = useState<string | null>(null)
  const [again, setAgain] = useState(true)
  const [at, setAt] = useState('')
  const tell = (what: Happening) => {
    if (what === 'void' && reason === null) {
      setReason('')
      return
    }
    const moment = at ? inZone(at, zone) : null
    changes.tell.mutate(
      { id: slot.id, what, at: moment, reason: reason ?? '', again },
      {
        onSuccess: () => {
          setReason(null)
          setAt('')
          say({ text: `${slot.label}: ${DONE[what]}.`, undo: () => changes.undo.mutateAsync(slot.id) })
        },
      },
    )
  }
  const [usual, ...others] = slot.may
  return (
    <section aria-label={slot.label} className="border-base-content bg-base-100 mt-2 border px-4 py-2 text-sm">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
        <h2 className="text-base font-bold">
          {slot.label}
        </h2>
        <span className="soft">
          {slot.state}
          {slot.closing ? ', again for drift' : `, round ${String(slot.repeat)}`}
          {slot.late_min > 0 && <b className="text-warning"> · {duration(slot.late_min)} late</b>}
        </span>
        <span className="ml-auto flex gap-2">
          {slot.can_undo && (
            <button
              className="btn btn-ghost btn-xs font-normal"
              onClick={() => {
                changes.undo.mutate(slot.id)
              }}
            >
              Undo the last step
            </button>
          )}
          <button className="btn btn-ghost btn-xs font-normal" onClick={onClose}>
            Close
          </button>
        </span>
      </div>
      <p className="mt-0.5">
        {slot.drain_start && slot.state === 'planned' && <>drain {momentAt(slot.drain_start, zone)} · </>}
        {slot.fill_start && slot.state !== 'running' && !slot.ended_at && (
          <>
            plug {slot.pack} in {momentAt(slot.fill_start, zone)} ·{' '}
          </>
        )}
        {slot.start && (
          <>
            {slot.began_at ? 'began' : 'start'} <b>{momentAt(slot.start, zone)}</b> to {slot.end && clockAt(slot.end, zone)} ·{' '}
          </>
        )}
        expected {slot.to_80 === null ? duration(slot.minutes) : `${duration(slot.to_80)} to 80 %`}, hottest{' '}
        {degreesText(slot.hottest_c, degrees)} °{degrees} ·{' '}
        {slot.attended_min > 0 ? `somebody there for ${duration(slot.attended_min)}` : 'may run alone'}
      </p>
      <p className="soft">
        {[slot.factors.adapter && `${slot.factors.adapter} adapter`, slot.factors.cable, slot.factors.airflow, slot.factors.ambient]
          .filter(Boolean)
          .join(' · ')}
        {slot.void_reason && ` · void: ${slot.void_reason}`}
        {slot.run && (
          <>
            {' · '}
            <Link className="underline underline-offset-2" to={`/runs/${slot.run}`}>
              its run: {slot.run_label}
            </Link>
          </>
        )}
      </p>
      {slot.state === 'planned' && <Bench slot={slot} />}
      {reason !== null ? (
        <form
          className="mt-2 flex flex-wrap items-center gap-3"
          onSubmit={(e) => {
            e.preventDefault()
            tell('void')
          }}
        >
          <input
            className="input input-sm w-72"
            aria-label="why it is void"
            placeholder="why: fan was off, phone moved …"
            value={reason}
            autoFocus
            maxLength={300}
            onChange={(e) => {
              setReason(e.target.value)
            }}
          />
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={again}
              onChange={(e) => {
                setAgain(e.target.checked)
              }}
            />
            make it again
          </label>
          <button className="btn btn-primary btn-sm" disabled={!reason.trim()}>
            It is void
          </button>
          <button
            type="button"
            className="btn btn-ghost btn-sm font-normal"
            onClick={() => {
              setReason(null)
            }}
          >
            Cancel
          </button>
        </form>
      ) : (
        <div className="mt-2 flex flex-wrap items-center gap-2">
          {BEFORE.has(slot.state) && (
            <Link className={`btn btn-sm ${usual === 'begin' ? 'btn-primary' : 'btn-outline border-base-300 font-normal'}`} to={`/bench/new?slot=${slot.id}`}>
              Set it on the bench
            </Link>
          )}
          {usual && usual !== 'void' && (
            <button
              className={`btn btn-sm ${usual === 'begin' ? 'btn-outline border-base-300 font-normal' : 'btn-primary'}`}
              disabled={changes.tell.isPending}
              onClick={() => {
                tell(usual)
              }}
            >
              {SAID[usual]}
            </button>
          )}
          {slot.state === 'running' && (
            <Link className="btn btn-outline border-base-300 btn-sm font-normal" to={`/runs/read?slot=${slot.id}`}>
              Read its file
            </Link>
          )}
          {(usual === 'void' ? slot.may : others).map((what) => (
            <button
              key={what}
              className="btn btn-outline border-base-300 btn-sm font-normal"
              disabled={changes.tell.isPending}
              onClick={() => {
                tell(what)
              }}
            >
              {SAID[what]}
            </button>
          ))}
          {slot.state === 'done' && !slot.run && (
            <Link className="btn btn-outline border-base-300 btn-sm font-normal" to={`/runs/read?slot=${slot.id}`}>
              Read its file
            </Link>
          )}
          <label className="soft ml-2 flex items-center gap-1.5">
            at
            <input
              type="datetime-local"
              className="input input-xs w-44"
              aria-label="when it happened, now if empty"
              max={forField(new Date(), zone)}
              value={at}
              onChange={(e) => {
                setAt(e.target.value)
              }}
            />
            <span>now if empty</span>
          </label>
        </div>
      )}
      {changes.tell.isError && <ProblemLine error={changes.tell.error} />}
      {changes.undo.isError && <ProblemLine error={changes.undo.error} />}
    </section>
  )
}

const BEFORE = new Set(['planned', 'draining', 'drained'])

const DONE: Record<Happening, string> = {
  drain: 'its drain has begun',
  drained: 'it is drained',
  begin: 'it has begun',
  end: 'it is over',
  cool: 'it is cool',
  void: 'it is void',
}

/** What to do before the phone goes on, in order. */
function Bench({ slot }: { slot: Slot }) {
  return (
    <p className="soft mt-1">
      Before it starts: {slot.factors.adapter ? 'adapter and charger in' : 'charger ready'}, note volts and no-load, phone cool
      and at {slot.factors.start ?? 'its start level'}, charge limits and optimised charging as the card says, nothing metal
      between the coils; then place the phone.
    </p>
  )
}
