import { api, sayProblem, asProblem, taken, type Shape } from '../../api/client'
import { duration } from '../../ui/format'
import { useUnderstood } from './useUnderstood'

type Understood = Shape['CheckInsShape']

const ask = async (text: string, signal: AbortSignal) => taken(await api.POST('/api/checkins/understanding', { body: { text }, signal }))

/** How the check-ins in a text are understood. */
export const useCheckIns = (text: string): { data: Understood | null; error: unknown } => useUnderstood(text, ask)

interface Props {
  text: string
  onText: (text: string) => void
  understood: Understood | null
  error: unknown
  reference: Understood['reference'] | null
  onReference: (reference: Understood['reference'] | null) => void
  fromFile: string | undefined
}

/** Check-ins typed, or pasted out of a spreadsheet, with what was understood of them. */
export function CheckInBox({ text, onText, understood, error, reference, onReference, fromFile }: Props) {
  const rows = understood?.rows ?? []
  const [first, last] = [rows[0], rows[rows.length - 1]]
  return (
    <div className="text-sm">
      <label>
        <span className="font-semibold">Battery percentages</span>
        <span className="soft"> · type them, or paste two columns</span>
        <textarea
          className={`textarea reading mt-1 h-28 w-full leading-snug ${error ? 'textarea-error' : ''}`}
          placeholder={'0 5\n15 22\n0:30 33'}
          value={text}
          aria-describedby="checkins-understood"
          aria-invalid={Boolean(error)}
          onChange={(e) => {
            onText(e.target.value)
          }}
        />
      </label>
      <div id="checkins-understood" aria-live="polite" className="mt-1 min-h-5">
        {error ? (
          <span className="text-error">{sayProblem(asProblem(error))}</span>
        ) : first && last ? (
          <span className="flex items-center gap-2">
            <span>
              {rows.length} check-ins, {first.percent} to {last.percent} % in {duration(last.minute - first.minute)}
            </span>
            <select
              className="select select-xs ml-auto w-32"
              aria-label="from when the minutes count"
              value={reference ?? understood?.reference}
              onChange={(e) => {
                onReference(e.target.value as Understood['reference'])
              }}
            >
              <option value="after placing">after placing</option>
              <option value="log">on the log's clock</option>
            </select>
          </span>
        ) : fromFile ? (
          <span className="soft">taken from {fromFile}</span>
        ) : (
          <span className="soft">minutes or h:mm after placing the phone, then the percentage</span>
        )}
      </div>
    </div>
  )
}
