import { queries } from '../../api/queries'
import { useQuery } from '@tanstack/react-query'
import type { Shape } from '../../api/client'
import type { SentFile } from './files'

type Clock = Shape['ClockOfFile']

/** Files as the reader takes them. */
export const usesOf = (files: SentFile[]): Shape['FileUse'][] =>
  files
    .filter((f) => f.upload && f.roles.length > 0)
    .map((f) => ({ upload: f.upload?.id ?? '', roles: f.roles, choice: { columns: {}, ...f.choice }, whose: f.whose ?? null }))

/** Whose clock the relative times of files beside a meter's log are on, by the file. */
export function useClocks(files: SentFile[]): Map<string, Clock> {
  const uses = usesOf(files).map((u) => ({ ...u, whose: null }))
  const ready = uses.length > 1 && uses.some((u) => u.roles.includes('meter')) && !files.some((f) => f.waiting || (f.understanding?.problems.length ?? 0) > 0)
  const clocks = useQuery(queries.clocks(uses, ready))
  return new Map((ready ? (clocks.data ?? []) : []).map((c) => [c.upload, c]))
}

interface Props {
  clock: Clock
  whose: Clock['whose']
  onWhose: (whose: 'log' | 'placing') => void
}

/** What the times of a file count from: guessed where that can be, else asked. */
export function WhoseClock({ clock, whose, onWhose }: Props) {
  const chosen = whose ?? clock.whose
  const option = (value: 'log' | 'placing', text: string) => (
    <label className="flex items-center gap-1.5">
      <input
        type="radio"
        className="radio radio-xs"
        name={`clock of ${clock.upload}`}
        checked={chosen === value}
        onChange={() => {
          onWhose(value)
        }}
      />
      {text}
    </label>
  )
  return (
    <fieldset
      role="radiogroup"
      aria-label="what its times count from"
      className={`flex flex-wrap items-center gap-x-4 gap-y-1 px-3 py-1.5 text-sm ${chosen === null ? 'border-base-content bg-accent text-accent-content border-l-4' : ''}`}
    >
      <span className={chosen === null ? 'font-semibold' : 'soft'}>Its times count from</span>
      {option('log', "the start of the meter's log")}
      {option('placing', 'the placing of the phone')}
      <span className="soft text-xs">{whose === null && clock.whose !== null ? `guessed: ${clock.why}` : clock.why}</span>
    </fieldset>
  )
}
