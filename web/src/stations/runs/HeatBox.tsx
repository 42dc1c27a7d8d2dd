import { useCallback } from 'react'
import { api, asProblem, sayProblem, taken, type Shape } from '../../api/client'
import { degreesText } from '../../ui/format'
import { useSettings } from '../../reader/settings'
import { useUnderstood } from './useUnderstood'

type Understood = Shape['HeatTextShape']

/** How the temperatures in a text are understood. */
export function useHeatText(text: string): { data: Understood | null; error: unknown } {
  const fahrenheit = useSettings().degrees === 'F'
  const ask = useCallback(
    async (typed: string, signal: AbortSignal) => taken(await api.POST('/api/temperatures/understanding', { body: { text: typed, fahrenheit }, signal })),
    [fahrenheit],
  )
  return useUnderstood(text, ask)
}

interface Props {
  text: string
  onText: (text: string) => void
  understood: Understood | null
  error: unknown
  fromFile: string | undefined
}

/** Temperatures typed, or pasted out of a spreadsheet, with what was understood of them. */
export function HeatBox({ text, onText, understood, error, fromFile }: Props) {
  const { degrees } = useSettings()
  const rows = understood?.rows ?? []
  const places = [...new Set(rows.map((r) => r.place))]
  const hottest = Math.max(...rows.map((r) => r.celsius))
  return (
    <div className="text-sm">
      <label>
        <span className="font-semibold">Temperatures</span>
        <span className="soft"> · type them, or paste columns</span>
        <textarea
          className={`textarea reading mt-1 h-20 w-full leading-snug ${error ? 'textarea-error' : ''}`}
          placeholder={degrees === 'F' ? '0 75f\n10 96.2f back' : '0 24c\n10 35.6c back'}
          value={text}
          aria-describedby="temperatures-understood"
          aria-invalid={Boolean(error)}
          onChange={(e) => {
            onText(e.target.value)
          }}
        />
      </label>
      <div id="temperatures-understood" aria-live="polite" className="mt-1 min-h-5">
        {error ? (
          <span className="text-error">{sayProblem(asProblem(error))}</span>
        ) : rows.length > 0 ? (
          <span>
            {rows.length} {rows.length === 1 ? 'temperature' : 'temperatures'}, {places.join(', ')}, up to {degreesText(hottest, degrees)} °{degrees}
          </span>
        ) : fromFile ? (
          <span className="soft">taken from {fromFile}</span>
        ) : (
          <span className="soft">minutes or h:mm after placing, the temperature, where: back, front, pad, room, thermal camera max …</span>
        )}
      </div>
    </div>
  )
}
