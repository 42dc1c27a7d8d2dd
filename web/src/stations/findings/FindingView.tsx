import { useMemo, useState, type ReactNode } from 'react'
import { Link, useNavigate } from 'react-router'
import { ProblemLine } from '../../ui/Problem'
import { dateAt, ZONE } from '../../ui/times'
import { useSay } from '../../ui/Undo'
import { Advice } from './Advice'
import { AskedForm } from './AskedForm'
import { AUDIENCES } from './audiences'
import { Claims } from './Claims'
import { Files } from './Files'
import { Tiers } from './Tiers'
import { InHand, Told } from './Told'
import { useFindingChanges, type Finding, type Sentence } from './useFinding'

/** A finding: the question, the answer, who stands where, how sure that is, what was not shown; and how it goes out. */
export function FindingView({ finding }: { finding: Finding }) {
  const changes = useFindingChanges(finding.id)
  const [asking, setAsking] = useState<'not yet' | 'open' | 'closed'>('not yet')
  const { draft } = finding
  const refusal = changes.draft.error ?? changes.leaveOut.error
  const hand = useMemo(() => ({ finding, changes, worded: new Map(finding.worded.map((w) => [w.key, w])) }), [finding, changes])
  return (
    <InHand value={hand}>
      <article className="pb-16">
        <h1 className="text-2xl leading-tight font-bold">{finding.asked.question}</h1>
        <p className="soft mt-1 text-xs">
          {draft.state} · drafted {dateAt(finding.drawn_at, ZONE)}
          {finding.drawn_by && ` by ${finding.drawn_by}`}
          {finding.plan_question && finding.asked.plan && (
            <>
              {' · from '}
              <Link className="underline underline-offset-2" to={`/plan/${finding.asked.plan}`}>
                its plan
              </Link>
            </>
          )}
          {' · '}
          <button className="cursor-pointer underline underline-offset-2" onClick={() => { setAsking(asking === 'open' ? 'closed' : 'open') }} aria-expanded={asking === 'open'}>
            question, claims, disclosure
          </button>
        </p>
        <Stale finding={finding} onDraft={() => { changes.draft.mutate() }} busy={changes.draft.isPending} />
        {refusal && <ProblemLine error={refusal} />}
        {asking !== 'not yet' && (
          // Closed, it keeps what was typed.
          <div hidden={asking === 'closed'}>
            <AskedForm
              finding={finding}
              changes={changes}
              onDone={() => {
                setAsking('not yet')
              }}
            />
          </div>
        )}
        <section aria-label="answer" className="my-3 max-w-4xl space-y-1.5 text-lg leading-snug">
          {draft.answer.map((s) => (
            <Told key={s.key} sentence={s} />
          ))}
        </section>
        <Tiers finding={finding} />
        <Sentences title="packs" of={draft.packs} />
        <Claims rows={draft.claims} />
        <div className="mt-4 grid grid-cols-2 gap-x-8 max-md:grid-cols-1">
          <div>
            <Sentences title="how sure" of={draft.method} />
            <More title="Limits" of={draft.limits} />
          </div>
          <div>
            <Sentences title="not shown" of={[...draft.not_tested, ...draft.next]} />
          </div>
        </div>
        <Sentences title="be careful" of={draft.cautions} stays />
        <Sentences title="published by others, not measured here" of={draft.foreign} />
        <Advice finding={finding} />
        <Disclosure finding={finding} />
        <p className="soft mt-3 text-xs">{finding.software}</p>
      </article>
      <Out finding={finding} />
    </InHand>
  )
}

/** What changed since the finding was drawn up, and the way to draw it up from what is there now. */
function Stale({ finding, onDraft, busy }: { finding: Finding; onDraft: () => void; busy: boolean }) {
  if (finding.changed.length === 0) return null
  return (
    <div className="border-warning my-2 flex flex-wrap items-center gap-x-4 gap-y-1 border-l-4 px-3 py-1 text-sm" role="status" aria-label="out of date">
      <div className="min-w-0 flex-1">
        <b>Out of date.</b>{' '}
        {finding.changed.slice(0, 4).map((c, i) => (
          <span key={c.said}>
            {i > 0 && '; '}
            {c.run ? (
              <Link className="underline underline-offset-2" to={`/runs/${c.run}`}>
                {c.said}
              </Link>
            ) : (
              c.said
            )}
          </span>
        ))}
        {finding.changed.length > 4 && `; and ${String(finding.changed.length - 4)} more`}.
      </div>
      <button className="btn btn-primary btn-sm" onClick={onDraft} disabled={busy}>
        {busy ? 'Drafting …' : 'Draft again'}
      </button>
    </div>
  )
}

function Section({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section aria-label={title} className="mt-4">
      <h2 className="soft text-xs font-semibold">{title}</h2>
      {children}
    </section>
  )
}

function Sentences({ title, of, stays = false }: { title: string; of: Sentence[]; stays?: boolean }) {
  if (of.length === 0) return null
  return (
    <Section title={title}>
      <div className="mt-0.5 space-y-0.5 text-sm">
        {of.map((s) => (
          <Told key={s.key} sentence={s} stays={stays} />
        ))}
      </div>
    </Section>
  )
}

function More({ title, of }: { title: string; of: Sentence[] }) {
  if (of.length === 0) return null
  return (
    <details className="mt-1 text-sm">
      <summary className="soft cursor-pointer text-xs">
        {title}: {of.length}
      </summary>
      <div className="mt-0.5 space-y-0.5">
        {of.map((s) => (
          <Told key={s.key} sentence={s} />
        ))}
      </div>
    </details>
  )
}

function Disclosure({ finding }: { finding: Finding }) {
  const told = finding.asked.disclosed?.filter((d) => d.got !== 'not stated' || d.note) ?? []
  return (
    <Section title="how the kit was come by">
      <p className="text-sm">
        {told.length === 0 ? (
          <span className="soft">Not stated. Say it under “question, claims, disclosure”.</span>
        ) : (
          told.map((d) => `${d.label}: ${d.got ?? ''}${d.note ? ` (${d.note})` : ''}`).join('; ')
        )}
      </p>
    </Section>
  )
}

/** A refusal stands beside the buttons. */
const shownBelow = () => undefined

/** How the finding goes out, and for whom it is. */
function Out({ finding }: { finding: Finding }) {
  const changes = useFindingChanges(finding.id)
  const navigate = useNavigate()
  const say = useSay()
  const published = finding.published_at !== null
  const publish = (on: boolean) => {
    const { mutateAsync } = changes.publish
    void mutateAsync(on).then(() => {
      say({ text: on ? 'Published.' : 'No longer marked as published.', undo: () => mutateAsync(!on) })
    }, shownBelow)
  }
  const remove = () => {
    void changes.remove.mutateAsync().then(() => {
      say({ text: 'The finding is deleted.', undo: () => changes.restore.mutateAsync() })
      if (window.location.pathname.endsWith(finding.id)) void navigate('/findings')
    }, shownBelow)
  }
  const { isPending: asks, variables } = changes.change
  const error = changes.publish.error ?? changes.change.error ?? changes.remove.error
  return (
    <div className="bg-base-100 border-base-300 sticky bottom-0 -mx-6 flex flex-wrap items-center gap-2 border-t px-6 py-2 max-md:-mx-4 max-md:px-4" role="group" aria-label="publish">
      <button className="btn btn-primary btn-sm" disabled={changes.publish.isPending} onClick={() => { publish(!published) }}>
        {published ? 'Take back' : 'Publish'}
      </button>
      {published && finding.published_at && <span className="soft text-xs">published {dateAt(finding.published_at, ZONE)}</span>}
      <Files finding={finding} />
      <button className="btn btn-ghost btn-sm font-normal" onClick={remove}>
        Delete
      </button>
      {error && <ProblemLine error={error} />}
      <label className="soft ml-auto flex items-center gap-1.5 text-sm">
        for
        <select
          className="select select-xs w-32"
          aria-label="for whom"
          value={asks ? variables.audience : finding.asked.audience}
          onChange={(event) => {
            const audience = AUDIENCES.find((a) => a.key === event.target.value)?.key ?? 'buyer'
            changes.change.mutate({ ...finding.asked, audience })
          }}
        >
          {AUDIENCES.map((a) => (
            <option key={a.key} value={a.key}>
              {a.name}
            </option>
          ))}
        </select>
      </label>
    </div>
  )
}
