import { begun } from '../../ui/text'
import { useState } from 'react'
import { Link } from 'react-router'
import { useCardChanges, useMethod, type Card } from '../../api/useMethod'
import { ProblemLine } from '../../ui/Problem'
import { useSay } from '../../ui/Undo'
import { CardForm } from './CardForm'

/** Every method card: the ready ones, and one's own. */
export function CardsPage() {
  const method = useMethod()
  const changes = useCardChanges()
  const say = useSay()
  const [form, setForm] = useState<{ first: Card; kept: Card | null } | null>(null)
  if (method.isError)
    return (
      <div className="p-6">
        <ProblemLine error={method.error} />
      </div>
    )
  const first = method.data?.cards[0]
  if (!first) return <p className="soft p-6">Reading the cards …</p>
  return (
    <div className="px-6 pt-4 pb-8">
      <div className="flex items-center gap-3 pb-2 max-sm:flex-wrap">
        <h1 className="text-2xl font-bold">Method cards</h1>
        <p className="soft text-sm">What a run promises to follow. A run keeps the card that it was made under.</p>
        <Link to="/plan" className="btn btn-outline border-base-300 btn-sm ml-auto font-normal">
          To the plan
        </Link>
        <button
          className="btn btn-primary btn-sm"
          onClick={() => {
            setForm({ first: { ...first, card: { ...first.card, name: '', good_for: '' } }, kept: null })
          }}
        >
          A card of my own
        </button>
      </div>
      <ul aria-label="cards">
        {method.data?.cards.map((c) => (
          <li key={c.card.name} className="border-base-300 grid grid-cols-[210px_1fr_auto] items-baseline gap-4 border-b py-2 text-sm max-sm:grid-cols-1 max-sm:gap-1">
            <b className="text-base font-semibold">{c.card.name}</b>
            <span className="first-letter:uppercase">
              {c.card.good_for && <>{c.card.good_for}. </>}
              <span className="soft">{begun(c.said)}.</span>
              {c.deep && <span className="text-warning"> Each run drains its phone to dead.</span>}
            </span>
            <span className="flex gap-1">
              <button
                className="btn btn-ghost btn-xs font-normal"
                aria-label={`${c.id ? 'change' : 'copy'} ${c.card.name}`}
                onClick={() => {
                  setForm(c.id ? { first: c, kept: c } : { first: { ...c, card: { ...c.card, name: '' } }, kept: null })
                }}
              >
                {c.id ? 'change' : 'copy'}
              </button>
              {c.id && (
                <button
                  className="btn btn-ghost btn-xs font-normal"
                  aria-label={`delete ${c.card.name}`}
                  onClick={() => {
                    const id = c.id ?? ''
                    changes.retire.mutate(id, {
                      onSuccess: () => {
                        say({ text: `“${c.card.name}” is deleted.`, undo: () => changes.bringBack.mutateAsync(id) })
                      },
                    })
                  }}
                >
                  delete
                </button>
              )}
            </span>
          </li>
        ))}
      </ul>
      {method.data?.retired.map((c) => (
        <p key={c.card.name} className="soft mt-2 text-sm">
          deleted: {c.card.name}{' '}
          <button
            className="btn btn-ghost btn-xs font-normal"
            aria-label={`restore ${c.card.name}`}
            onClick={() => {
              changes.bringBack.mutate(c.id ?? '')
            }}
          >
            restore
          </button>
        </p>
      ))}
      {form && method.data && (
        <CardForm
          first={form.first.card}
          kept={form.kept}
          schools={method.data.schools}
          onClose={(added) => {
            setForm(null)
            if (added) say({ text: `“${added.card.name}” is kept.` })
          }}
        />
      )}
    </div>
  )
}
