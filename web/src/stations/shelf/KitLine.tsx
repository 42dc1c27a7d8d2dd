import { useEffect, useState, type RefObject } from 'react'
import { useKitChanges, type KitKind } from '../../api/useKit'
import { useTypedKit } from '../../api/useTypedKit'
import { ProblemLine } from '../../ui/Problem'
import { useSay } from '../../ui/Undo'
import { KINDS } from './counted'

interface Props {
  field: RefObject<HTMLInputElement | null>
  focused: boolean
  onForm: (kind: KitKind) => void
}

/** Kit in one line: what was understood stands under it before Enter. */
export function KitLine({ field, focused, onForm }: Props) {
  const say = useSay()
  const [text, setText] = useState('')
  const typed = useTypedKit(text.trim())
  const changes = useKitChanges()
  useEffect(() => {
    if (focused) field.current?.focus()
  }, [focused, field])
  const parsed = typed.data
  // Dull until the line is whole; Enter that comes before the answer asks all the same, and the line stays if it is not.
  const whole = Boolean(text.trim()) && !typed.isPlaceholderData && parsed?.kind !== null && parsed?.problem === ''
  const keep = () => {
    changes.line.mutate(text.trim(), {
      onSuccess: ({ kept }) => {
        if (!kept) return
        setText('')
        say({ text: `“${kept.label}” is on the shelf.`, undo: () => changes.retire.mutateAsync(kept.id) })
      },
    })
  }
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault()
        keep()
      }}
    >
      <div className="flex gap-2">
        <input
          ref={field}
          className="input grow"
          aria-label="add kit in one line"
          placeholder="charger Cairn disc 15 Qi2 15W 45 EUR"
          value={text}
          maxLength={500}
          autoComplete="off"
          onChange={(e) => {
            setText(e.target.value)
          }}
        />
        <button className={`btn ${whole ? 'btn-primary' : 'btn-outline border-base-300 opacity-60'}`} aria-disabled={!whole} disabled={!text.trim() || changes.line.isPending}>
          Add
        </button>
        <select
          className="select w-40"
          aria-label="add kit by a form"
          value=""
          onChange={(e) => {
            if (e.target.value) onForm(e.target.value as KitKind)
          }}
        >
          <option value="">by a form …</option>
          {KINDS.map((k) => (
            <option key={k} value={k}>
              {k}
            </option>
          ))}
        </select>
      </div>
      <p className="mt-1 min-h-5 text-sm" role="status">
        {parsed?.kind && (
          <>
            <b>
              {parsed.kind} {parsed.label && `“${parsed.label}”`}
            </b>{' '}
            {parsed.said}
            {parsed.fields.price && `; ${parsed.fields.price}`}
          </>
        )}
        {parsed?.problem && <span className={text.trim() ? 'text-error' : 'soft'}> {parsed.problem}</span>}
      </p>
      {changes.line.isError && <ProblemLine error={changes.line.error} />}
    </form>
  )
}
