import { begun } from '../../ui/text'
import { useState } from 'react'
import type { Shape } from '../../api/client'
import { CardForm } from './CardForm'
import { withCard, type Draft } from './draft'

interface Props {
  draft: Draft
  onDraft: (draft: Draft) => void
  method: Shape['MethodShape']
}

/** The method cards to choose from; the one in hand can be changed into one's own. */
export function CardPicker({ draft, onDraft, method }: Props) {
  const [form, setForm] = useState(false)
  const known = method.cards.some((c) => c.card.name === draft.card.name)
  const chosen = method.cards.find((c) => c.card.name === draft.card.name)
  return (
    <fieldset className="mt-4">
      <legend className="text-base font-bold">Method</legend>
      <div className="mt-1 flex flex-wrap gap-1.5" role="radiogroup" aria-label="method card">
        {!known && <Chip card={draft.card} chosen onPick={() => undefined} />}
        {method.cards.map((c) => (
          <Chip
            key={c.card.name}
            card={c.card}
            chosen={c.card.name === draft.card.name}
            onPick={() => {
              onDraft(withCard(draft, c.card))
            }}
          />
        ))}
        <button
          type="button"
          className="btn btn-ghost btn-sm font-normal"
          onClick={() => {
            setForm(true)
          }}
        >
          a card of my own …
        </button>
      </div>
      <p className="mt-1 text-sm first-letter:uppercase">
        {draft.card.good_for && <b className="font-semibold">{draft.card.good_for}. </b>}
        <span className="soft">{chosen && `${begun(chosen.said)}.`}</span>
      </p>
      {form && (
        <CardForm
          first={{ ...draft.card, name: '' }}
          kept={null}
          schools={method.schools}
          onClose={(added) => {
            setForm(false)
            if (added) onDraft(withCard(draft, added.card))
          }}
        />
      )}
    </fieldset>
  )
}

function Chip({ card, chosen, onPick }: { card: Shape['Card']; chosen: boolean; onPick: () => void }) {
  return (
    <button
      type="button"
      role="radio"
      aria-checked={chosen}
      title={card.good_for}
      className={`btn btn-sm font-normal ${chosen ? 'btn-neutral' : 'btn-outline border-base-300'}`}
      onClick={onPick}
    >
      {card.name}
    </button>
  )
}
