import { useState, type FormEvent } from 'react'
import type { Shape } from '../../api/client'
import { ProblemLine } from '../../ui/Problem'
import { NO_DIP } from '../../api/rules'
import { CHOICES, causeSaid } from './causes'
import type { useDecide } from './useDecide'

type Decider = ReturnType<typeof useDecide>['decide']
type Cause = (typeof CHOICES)[number]

const minute = (value: number) => value.toFixed(1)
/** A number as it is typed, decimal comma included. */
const typed = (text: string) => Number(text.replace(',', '.'))

function Minutes({ label, value, onChange }: { label: string; value: string; onChange: (text: string) => void }) {
  return (
    <label className="flex items-center gap-1">
      <span className="soft">{label}</span>
      <input
        className="input input-sm reading w-20 text-right"
        inputMode="decimal"
        required
        value={value}
        onChange={(e) => {
          onChange(e.target.value)
        }}
      />
      <span className="soft">min</span>
    </label>
  )
}

interface DipProps {
  run: Shape['RunShape']
  dip?: Shape['DipShape']
  decide: Decider
  onDone: () => void
}

/** Another cause or other bounds for a dip; or a dip that was not read. */
export function DecideDip({ run, dip, decide, onDone }: DipProps) {
  const [cause, setCause] = useState<Cause>(dip?.cause ?? 'unexplained')
  const [from, setFrom] = useState(dip ? minute(dip.start) : '')
  const [to, setTo] = useState(dip ? minute(dip.end) : '')
  const [why, setWhy] = useState('')
  const send = (event: FormEvent) => {
    event.preventDefault()
    const [start, end] = [typed(from), typed(to)]
    const moved = dip && (from !== minute(dip.start) || to !== minute(dip.end))
    decide.mutate(
      {
        about: 'dip',
        start: dip?.start ?? start,
        end: dip?.end ?? end,
        cause: dip?.cause === cause ? null : cause,
        ...(moved ? { new_start: start, new_end: end } : {}),
        why,
      },
      { onSuccess: onDone },
    )
  }
  return (
    <form className="bg-base-200 flex flex-wrap items-center gap-x-4 gap-y-2 px-3 py-2" onSubmit={send} aria-label="change the cause">
      <label className="flex items-center gap-1">
        <span className="soft">it was</span>
        <select
          autoFocus
          className="select select-sm w-36"
          value={cause}
          onChange={(e) => {
            setCause(e.target.value as Cause)
          }}
        >
          {CHOICES.filter((c) => dip ?? c !== NO_DIP).map((c) => (
            <option key={c} value={c}>
              {causeSaid(c)}
            </option>
          ))}
        </select>
      </label>
      <Minutes label="from" value={from} onChange={setFrom} />
      <Minutes label="to" value={to} onChange={setTo} />
      <label className="flex min-w-48 flex-1 items-center gap-1">
        <span className="soft">because</span>
        <input
          className="input input-sm w-full"
          maxLength={300}
          value={why}
          onChange={(e) => {
            setWhy(e.target.value)
          }}
        />
      </label>
      <button className="btn btn-sm btn-primary" disabled={decide.isPending}>
        Apply
      </button>
      <button type="button" className="btn btn-sm btn-ghost font-normal" onClick={onDone}>
        Cancel
      </button>
      <p className="soft w-full text-xs">
        What was read stays beside it; everything that follows from “{run.label}” is worked out with your decision.
      </p>
      {decide.isError && <ProblemLine error={decide.error} />}
    </form>
  )
}

/** Another beginning for a phase; the one before it ends there. */
export function MovePhase({ phase, decide, onDone }: { phase: Shape['PhaseShape']; decide: Decider; onDone: () => void }) {
  const [at, setAt] = useState(minute(phase.start))
  const send = (event: FormEvent) => {
    event.preventDefault()
    decide.mutate({ about: 'phase', start: phase.start, end: phase.start, new_start: typed(at) }, { onSuccess: onDone })
  }
  return (
    <form className="flex items-center gap-3 py-1" onSubmit={send} aria-label="move the beginning of a phase">
      <Minutes label="begins at" value={at} onChange={setAt} />
      <button className="btn btn-sm btn-primary" disabled={decide.isPending}>
        Apply
      </button>
      <button type="button" className="btn btn-sm btn-ghost font-normal" onClick={onDone}>
        Cancel
      </button>
      {decide.isError && <ProblemLine error={decide.error} />}
    </form>
  )
}
