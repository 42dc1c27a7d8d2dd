import { useEffect, useRef, useState } from 'react'
import { createPortal } from 'react-dom'
import { asProblem, type Shape } from '../../api/client'
import { useCardChanges, type Card } from '../../api/useMethod'
import { inCelsius, inDegrees } from '../../ui/format'
import { ProblemLine } from '../../ui/Problem'
import { useSettings } from '../../reader/settings'

type Facts = Shape['Card']

interface Props {
  first: Facts
  kept: Card | null
  schools: Shape['Question'][]
  onClose: (made: Card | null) => void
}

const FIGURES: Partial<Record<string, { field: keyof Facts; unit: string; when: (c: Facts) => boolean }>> = {
  start: { field: 'start_percent', unit: '%', when: (c) => c.start === 'custom' },
  end: { field: 'soak_min', unit: 'min more', when: (c) => c.end === 'soak after full' },
  ambient: { field: 'ambient_c', unit: '°C', when: () => true },
}
const NUMBERS = new Set(['interval_min', 'repeats'])

/** A method card: every school a choice, with one line on what it is good for. */
export function CardForm({ first, kept, schools, onClose }: Props) {
  const changes = useCardChanges()
  const dialog = useRef<HTMLDialogElement>(null)
  const [card, setCard] = useState<Facts>(first)
  useEffect(() => {
    dialog.current?.showModal()
  }, [])
  const save = kept?.id ? changes.change : changes.add
  const problem = save.isError ? asProblem(save.error) : null
  const flaw = (field: string) => problem?.flaws.find((f) => f.field === field)
  const stored = useRef<Card | null>(null)
  const done = {
    onSuccess: (found: Card) => {
      stored.current = found
      dialog.current?.close()
    },
  }
  const submit = () => {
    if (kept?.id) changes.change.mutate({ id: kept.id, card: { ...card }, revision: kept.revision }, done)
    else changes.add.mutate({ ...card }, done)
  }
  const set = (field: string, value: unknown) => {
    setCard({ ...card, [field]: value })
  }
  // Beside the page, not in it: a form must not stand within the form that opened it.
  return createPortal(
    <dialog
      ref={dialog}
      className="modal"
      aria-label={kept ? `change ${first.name}` : 'a card of my own'}
      onClose={() => {
        onClose(stored.current)
      }}
    >
      <div className="modal-box max-w-4xl">
        <form
          onSubmit={(e) => {
            e.preventDefault()
            e.stopPropagation()
            submit()
          }}
        >
          <div className="grid grid-cols-2 gap-4">
            <Text text="name" value={card.name} flaw={flaw('name')} onTyped={(v) => { set('name', v) }} />
            <Text text="good for" value={card.good_for ?? ''} flaw={undefined} onTyped={(v) => { set('good_for', v) }} />
          </div>
          <div className="mt-3 grid grid-cols-2 gap-x-8 gap-y-2">
            {schools.map((q) => (
              <Question key={q.field} question={q} card={card} set={set} flaw={flaw(q.field) ?? flaw(FIGURES[q.field]?.field ?? '')} />
            ))}
          </div>
          {problem && problem.flaws.length === 0 && <ProblemLine error={save.error} />}
          <div className="modal-action">
            <button type="button" className="btn btn-ghost btn-sm" onClick={() => dialog.current?.close()}>
              Cancel
            </button>
            <button className="btn btn-primary btn-sm" disabled={save.isPending}>
              {kept ? 'Save' : 'Keep this card'}
            </button>
          </div>
        </form>
      </div>
    </dialog>,
    document.body,
  )
}

interface QuestionProps {
  question: Shape['Question']
  card: Facts
  set: (field: string, value: unknown) => void
  flaw: Shape['Flaw'] | undefined
}

function Question({ question, card, set, flaw }: QuestionProps) {
  const { degrees } = useSettings()
  const { field, said, schools } = question
  const held = card[field as keyof Facts]
  const many = Array.isArray(held)
  const value = many ? '' : String(held)
  const figure = FIGURES[field]
  const celsius = figure?.unit === '°C'
  const unit = celsius ? `°${degrees}` : (figure?.unit ?? '')
  const own = !many && !schools.some((s) => s.choice === value)
  const good = schools.find((s) => s.choice === value)?.good_for
  if (many)
    return (
      <fieldset className="text-sm">
        <legend className="soft text-xs">{said}</legend>
        {schools.map((s) => (
          <label key={s.choice} className="flex items-baseline gap-2" title={s.good_for}>
            <input
              type="checkbox"
              className="checkbox checkbox-xs translate-y-0.5"
              checked={(held as string[]).includes(s.choice)}
              onChange={(e) => {
                set(field, e.target.checked ? [...(held as string[]), s.choice] : (held as string[]).filter((x) => x !== s.choice))
              }}
            />
            {s.choice}
          </label>
        ))}
        {flaw && <Flaw flaw={flaw} />}
      </fieldset>
    )
  return (
    <div className="text-sm">
      <span className="flex items-end gap-2">
        <label className="block grow">
          <span className="soft text-xs">{said}</span>
          <select
            className={`select select-sm w-full ${flaw ? 'select-error' : ''}`}
            aria-label={said}
            value={value}
            onChange={(e) => {
              set(field, NUMBERS.has(field) ? Number(e.target.value) : e.target.value)
            }}
          >
            {own && <option value={value}>{value}</option>}
            {schools.map((s) => (
              <option key={s.choice} value={s.choice}>
                {field === 'interval_min' ? (s.choice === '0' ? 'continuous' : `${s.choice} min`) : s.choice}
              </option>
            ))}
          </select>
        </label>
        {figure?.when(card) && (
          <label className="input input-sm w-32">
            <input
              inputMode="decimal"
              className="min-w-0 grow"
              aria-label={`${said}, ${unit}`}
              key={unit}
              defaultValue={celsius ? String(Number(inDegrees(Number(card[figure.field]), degrees).toFixed(1))) : String(card[figure.field])}
              onChange={(e) => {
                const typed = Number(e.target.value.replace(',', '.'))
                if (e.target.value.trim() && !Number.isNaN(typed)) set(figure.field, celsius ? Number(inCelsius(typed, degrees).toFixed(2)) : typed)
              }}
            />
            <span className="soft whitespace-nowrap">{unit}</span>
          </label>
        )}
      </span>
      {flaw ? <Flaw flaw={flaw} /> : <span className="soft text-xs">{good}</span>}
    </div>
  )
}

function Flaw({ flaw }: { flaw: Shape['Flaw'] }) {
  return (
    <span className="text-error text-xs">
      {flaw.what}; {flaw.mend}
    </span>
  )
}

interface TextProps {
  text: string
  value: string
  flaw: Shape['Flaw'] | undefined
  onTyped: (value: string) => void
}

function Text({ text, value, flaw, onTyped }: TextProps) {
  return (
    <label className="block text-sm">
      <span className="soft text-xs">{text}</span>
      <input
        className={`input input-sm w-full ${flaw ? 'input-error' : ''}`}
        aria-invalid={Boolean(flaw)}
        value={value}
        maxLength={120}
        onChange={(e) => {
          onTyped(e.target.value)
        }}
      />
      {flaw && <Flaw flaw={flaw} />}
    </label>
  )
}
