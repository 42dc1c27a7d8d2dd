import { useState, type FormEvent } from 'react'
import type { Compared, Versus } from '../../api/useVersus'
import { windowText } from './compared'

interface Props {
  window: Pick<Compared, 'start' | 'end'>
  /** Windows worth comparing over. */
  windows: Versus['windows']
  compared: Compared
  onChange: (change: Partial<Compared>) => void
  busy: boolean
}

/** The window of a comparison, and where its curves line up. */
export function WindowFields({ window, windows, compared, onChange, busy }: Props) {
  const [start, setStart] = useState(String(window.start ?? ''))
  const [end, setEnd] = useState(String(window.end ?? ''))
  const number = (text: string) => (text.trim() === '' ? null : Number(text.replace(',', '.')))
  const send = (event: FormEvent) => {
    event.preventDefault()
    onChange({ start: number(start), end: number(end) })
  }
  const changed = number(start) !== window.start || number(end) !== window.end
  const field = (label: string, value: string, onValue: (text: string) => void) => (
    <input
      className="input input-xs reading w-12 text-right"
      aria-label={label}
      inputMode="decimal"
      value={value}
      onChange={(e) => {
        onValue(e.target.value)
      }}
    />
  )
  return (
    <form className="mt-2 flex flex-wrap items-center gap-x-2 gap-y-1 text-sm" onSubmit={send} aria-label="window">
      <span className="soft">from</span>
      {field('from, %', start, setStart)}
      <span className="soft">to</span>
      {field('to, %', end, setEnd)}
      <span className="soft">%</span>
      {changed ? <button className="btn btn-xs btn-neutral">Compare</button> : null}
      {windows.map((w) => {
        const here = w.start === window.start && w.end === window.end
        return (
          <button
            key={windowText(w)}
            type="button"
            aria-pressed={here}
            className={`reach cursor-pointer rounded border px-2 py-0.5 text-xs ${here ? 'border-base-content font-semibold' : 'border-base-300 hover:border-base-content'}`}
            onClick={() => {
              onChange({ start: w.start, end: w.end })
            }}
          >
            {windowText(w)} <span className="soft font-normal">{w.runs === compared.runs.length ? 'all' : `${String(w.runs)} of ${String(compared.runs.length)}`}</span>
          </button>
        )
      })}
      <label className="ml-auto flex items-center gap-2">
        <span className="soft">line up at</span>
        <select
          className="select select-xs w-32"
          value={compared.align}
          onChange={(e) => {
            onChange({ align: e.target.value as Versus['align'] })
          }}
        >
          <option value="placement">the start</option>
          <option value="common percent">{window.start === null ? 'a percentage' : `${String(window.start)} %`}</option>
        </select>
      </label>
      <span className="soft w-20 text-right text-xs" role="status">
        {busy && 'comparing …'}
      </span>
    </form>
  )
}
