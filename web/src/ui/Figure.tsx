import { useState } from 'react'

interface Props {
  text: string
  value: number | null
  low: number
  high: number
  unit?: string
  whole?: boolean
  /** What stands in the empty field, where it may be left empty. */
  empty?: string
  onTyped: (value: number) => void
  onEmpty?: () => void
}

/** A figure with its unit; what is typed stays, and what is wrong with it is said beside it. */
export function Figure({ text, value, low, high, unit, whole, empty, onTyped, onEmpty }: Props) {
  const [typed, setTyped] = useState<string | null>(null)
  const shown = typed ?? (value === null ? '' : String(value))
  const fits = (written: string) => {
    const figure = Number(written.replace(',', '.'))
    return written.trim() !== '' && figure >= low && figure <= high && (!whole || Number.isInteger(figure))
  }
  const wrong = !fits(shown) && !(empty !== undefined && shown.trim() === '')
  return (
    <label className="flex items-center gap-1.5">
      <span className="soft">{text}</span>
      <span className={`input input-xs w-14 px-1.5 ${wrong ? 'input-error' : ''}`}>
        <input
          className="min-w-0 grow"
          inputMode="decimal"
          aria-label={unit ? `${text}, ${unit}` : text}
          aria-invalid={wrong}
          placeholder={empty}
          value={shown}
          onChange={(e) => {
            setTyped(e.target.value)
            if (fits(e.target.value)) onTyped(Number(e.target.value.replace(',', '.')))
            else if (e.target.value.trim() === '') onEmpty?.()
          }}
          onBlur={() => {
            if (!wrong) setTyped(null)
          }}
        />
        {unit && <span className="soft">{unit}</span>}
      </span>
      {wrong && (
        <span className="text-error text-xs">
          {low.toFixed(0)} to {high.toFixed(0)} {unit}
        </span>
      )}
    </label>
  )
}
