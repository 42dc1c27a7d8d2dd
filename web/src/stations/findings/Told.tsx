import { useMutation } from '@tanstack/react-query'
import { createContext, useContext, useState } from 'react'
import { Link } from 'react-router'
import { ProblemLine } from '../../ui/Problem'
import { unbroken } from '../../ui/text'
import { useSay } from '../../ui/Undo'
import { pieces } from './told'
import type { Finding, FindingChanges, Sentence, Worded } from './useFinding'

interface Around {
  finding: Finding
  changes: FindingChanges
  worded: Map<string, Worded>
}

/** The finding in hand: what every sentence of it needs. */
export const InHand = createContext<Around | null>(null)

interface Props {
  sentence: Sentence
  className?: string
  /** A line that is worked out for who asks: it opens its figures, and cannot be edited. */
  plain?: boolean
  /** A caution, which stays. */
  stays?: boolean
}

/** A refusal stands at the head of the finding. */
const refusedElsewhere = () => undefined

/** A sentence of a finding: its figures open their working; its words can be edited, and it can be left out. */
export function Told({ sentence, className = '', plain = false, stays = false }: Props) {
  const hand = useContext(InHand)
  const say = useSay()
  const [open, setOpen] = useState<number | null>(null)
  const [editing, setEditing] = useState(false)
  const worded = hand?.worded.get(sentence.key)
  const words = worded && !worded.waiting && worded.words ? worded.words : sentence.words
  const figure = open === null ? undefined : sentence.figures[open]
  const quiet = 'soft hover:text-base-content cursor-pointer text-xs underline decoration-dotted underline-offset-2 sm:pointer-fine:not-focus-visible:sr-only sm:pointer-fine:group-hover:not-sr-only'
  const leaveOut = (out: boolean) => {
    if (!hand) return
    const { mutateAsync } = hand.changes.leaveOut
    void mutateAsync({ key: sentence.key, left_out: out }).then(() => {
      if (out) say({ text: 'The sentence is left out.', undo: () => mutateAsync({ key: sentence.key, left_out: false }) })
    }, refusedElsewhere)
  }
  if (worded?.left_out)
    return (
      <p className={`soft text-sm ${className}`}>
        <s className="soft">{unbroken(words.replaceAll(/[[\]*]/g, ''))}</s>{' '}
        <button className="cursor-pointer text-xs underline underline-offset-2" onClick={() => { leaveOut(false) }}>
          take in again
        </button>
      </p>
    )
  if (editing && hand)
    return (
      <Edit
        sentence={sentence}
        words={words}
        hand={hand}
        onDone={() => {
          setEditing(false)
        }}
      />
    )
  return (
    <div className={`group ${className}`}>
      <p>
        {pieces(words, sentence.figures).map((piece, i) =>
          piece.figure === null ? (
            piece.strong ? (
              <b key={i}>{unbroken(piece.text)}</b>
            ) : (
              <span key={i}>{unbroken(piece.text)}</span>
            )
          ) : (
            <span key={i} className="whitespace-nowrap">
              {piece.before}
              <button
                className="reading decoration-base-content/40 hover:decoration-base-content cursor-pointer underline underline-offset-4"
                aria-expanded={open === piece.figure}
                title="how is this worked out?"
                onClick={() => {
                  setOpen(open === piece.figure ? null : piece.figure)
                }}
              >
                {unbroken(piece.text)}
              </button>
              {piece.after}
            </span>
          ),
        )}
        {'. '}
        {worded?.by && !worded.waiting && (
          <span className="soft text-xs" title={worded.first.replaceAll(/[[\]*]/g, '')}>
            edited by {worded.by}{' '}
          </span>
        )}
        {hand && !plain && (
          <span className="inline-flex gap-2">
            <button className={quiet} onClick={() => { setEditing(true) }}>
              edit
            </button>
            {!stays && (
              <button className={quiet} onClick={() => { leaveOut(true) }}>
                leave out
              </button>
            )}
          </span>
        )}
      </p>
      {sentence.basis && <p className="soft text-xs">{unbroken(sentence.basis)}</p>}
      {figure && <FigureWorking figure={figure} />}
      {worded?.waiting && hand && <Waiting sentence={sentence} worded={worded} hand={hand} />}
    </div>
  )
}

/** How a figure was worked out, its interval, and the runs that it rests on. */
function FigureWorking({ figure }: { figure: Sentence['figures'][number] }) {
  const hand = useContext(InHand)
  const runs = hand?.finding.runs.filter((r) => figure.of.includes(r.id)) ?? []
  return (
    <div className="bg-base-200 my-1 px-3 py-2 text-sm font-normal" role="note">
      <p>{unbroken(figure.how)}</p>
      {figure.low !== null && figure.high !== null && (
        <p className="soft text-xs">
          between <span className="reading">{figure.low.toFixed(1)}</span> and <span className="reading">{figure.high.toFixed(1)}</span> {figure.unit}
        </p>
      )}
      {runs.length > 0 && (
        <p className="soft text-xs">
          from{' '}
          {runs.map((r, i) => (
            <span key={r.id}>
              {i > 0 && ', '}
              <Link className="underline underline-offset-2" to={`/runs/${r.id}`}>
                {r.label}
              </Link>
            </span>
          ))}
        </p>
      )}
    </div>
  )
}

/** The words of a sentence in a field; figures stay as they are. */
function Edit({ sentence, words, hand, onDone }: { sentence: Sentence; words: string; hand: Around; onDone: () => void }) {
  const [text, setText] = useState(words)
  // Of its own: another sentence may be saved meanwhile.
  const { mutate, isPending, error } = useMutation({
    mutationFn: (next: string | null) => hand.changes.words.mutateAsync({ key: sentence.key, words: next }),
    onSuccess: onDone,
  })
  const save = (next: string | null) => {
    if (!isPending) mutate(next)
  }
  return (
    <form
      className="my-1 text-base font-normal"
      onSubmit={(event) => {
        event.preventDefault()
        save(text)
      }}
    >
      <textarea
        className="textarea textarea-sm w-full"
        rows={3}
        autoFocus
        aria-label="words of the sentence"
        value={text}
        onChange={(event) => {
          setText(event.target.value)
        }}
        onKeyDown={(event) => {
          if (event.key === 'Escape') onDone()
          if (event.key === 'Enter' && !event.shiftKey) {
            event.preventDefault()
            save(text)
          }
        }}
      />
      {sentence.figures.length > 0 && <p className="soft text-xs">Figures stand in square brackets. Move them; they cannot be changed.</p>}
      {error && <ProblemLine error={error} />}
      <div className="mt-1 flex gap-2">
        <button className="btn btn-primary btn-sm" disabled={isPending}>
          {isPending ? 'Saving …' : 'Save'}
        </button>
        <button type="button" className="btn btn-ghost btn-sm font-normal" onClick={onDone}>
          Cancel
        </button>
        {words !== sentence.words && (
          <button type="button" className="btn btn-ghost btn-sm font-normal" onClick={() => { save(null) }}>
            First wording
          </button>
        )}
      </div>
    </form>
  )
}

/** Somebody's words whose sentence says something else by now: keep them, or take the new ones. */
function Waiting({ sentence, worded, hand }: { sentence: Sentence; worded: Worded; hand: Around }) {
  const { words } = hand.changes
  const choose = (next: string | null) => {
    words.mutate({ key: sentence.key, words: next })
  }
  return (
    <div className="border-warning my-1 border-l-4 px-3 py-1 text-sm font-normal" role="note" aria-label="your words wait">
      <p className="soft text-xs">The data changed under words that {worded.by} wrote. Until somebody chooses, the new draft counts.</p>
      <p>{unbroken(worded.waiting.replaceAll(/[[\]*]/g, ''))}.</p>
      {words.error && words.variables.key === sentence.key && <ProblemLine error={words.error} />}
      <div className="mt-1 flex gap-2">
        <button className="btn btn-outline border-base-300 btn-xs font-normal" onClick={() => { choose(worded.waiting) }}>
          Keep these words
        </button>
        <button className="btn btn-outline border-base-300 btn-xs font-normal" onClick={() => { choose(null) }}>
          Take the new draft
        </button>
      </div>
    </div>
  )
}
