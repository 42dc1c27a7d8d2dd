import type { Ref } from 'react'

interface Props {
  field: Ref<HTMLInputElement>
  value: string
  onChange: (text: string) => void
  label: string
  placeholder: string
}

/** A field that filters what is listed; Esc empties and leaves it. */
export function FilterField({ field, value, onChange, label, placeholder }: Props) {
  return (
    <input
      ref={field}
      type="search"
      className="input input-sm w-56"
      placeholder={placeholder}
      aria-label={label}
      value={value}
      onChange={(e) => {
        onChange(e.target.value)
      }}
      onKeyDown={(e) => {
        if (e.key === 'Escape') {
          onChange('')
          e.currentTarget.blur()
        }
      }}
    />
  )
}
