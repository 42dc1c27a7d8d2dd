interface Props {
  text: string
  value: string | undefined
  options: string[]
  said?: Record<string, string>
  none?: string
  onChoose: (text: string) => void
  autoFocus?: boolean
  disabled?: boolean
}

/** One of a few, by its name. */
export function Choice({ text, value, options, said = {}, none = '–', onChoose, autoFocus, disabled }: Props) {
  return (
    <label className="block text-sm">
      <span className="soft text-xs">{text}</span>
      <select
        className="select select-sm w-full min-w-40"
        aria-label={text}
        autoFocus={autoFocus}
        disabled={disabled}
        value={value ?? ''}
        onChange={(e) => {
          onChoose(e.target.value)
        }}
      >
        <option value="">{none}</option>
        {options.map((o) => (
          <option key={o} value={o}>
            {said[o] ?? o}
          </option>
        ))}
      </select>
    </label>
  )
}
