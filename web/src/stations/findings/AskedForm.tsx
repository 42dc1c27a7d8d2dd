import { useState } from 'react'
import type { Shape } from '../../api/client'
import { useSettings } from '../../reader/settings'
import { ProblemLine } from '../../ui/Problem'
import type { Finding, FindingChanges } from './useFinding'

const GOT = ['not stated', 'bought', 'lent', 'sponsored'] as const
type Claim = Shape['ClaimTypedDocument']
type Foreign = Shape['ForeignDocument']

interface Props {
  finding: Finding
  changes: FindingChanges
  onDone: () => void
}

/** What a finding asks: its question, claims to be checked, figures of others, and how the kit was come by. */
export function AskedForm({ finding, changes, onDone }: Props) {
  const { degrees } = useSettings()
  const { asked } = finding
  const [opened] = useState(asked)
  const elsewhere = (['question', 'claims', 'foreign', 'disclosed'] as const).some(
    (part) => JSON.stringify(asked[part]) !== JSON.stringify(opened[part]),
  )
  const [question, setQuestion] = useState(asked.question)
  const [claims, setClaims] = useState<Claim[]>([...(asked.claims ?? []), { about: '', text: '', against: '' }])
  const [foreign, setForeign] = useState<Foreign[]>([...(asked.foreign ?? []), { what: '', figure: '', source: '', date: '' }])
  const kit = [...new Set([...finding.draft.blocks.flatMap((b) => [...b.rows.map((r) => r.label), ...b.alone]), ...(asked.packs ?? [])])]
  const [disclosed, setDisclosed] = useState(() => new Map(asked.disclosed?.map((d) => [d.label, d]) ?? []))
  const { isPending, error } = changes.change
  const save = () => {
    changes.change.mutate(
      {
        ...asked,
        question,
        degrees,
        claims: claims.filter((c) => c.about.trim() && c.text.trim()),
        foreign: foreign.filter((f) => f.what.trim() && f.figure.trim()),
        disclosed: [...disclosed.values()].filter((d) => d.got !== 'not stated' || d.note),
      },
      { onSuccess: onDone },
    )
  }
  const claimAt = (n: number, next: Partial<Claim>) => {
    const changed = claims.map((c, i) => (i === n ? { ...c, ...next } : c))
    setClaims(changed.at(-1)?.about || changed.at(-1)?.text ? [...changed, { about: '', text: '', against: '' }] : changed)
  }
  const foreignAt = (n: number, next: Partial<Foreign>) => {
    const changed = foreign.map((f, i) => (i === n ? { ...f, ...next } : f))
    setForeign(changed.at(-1)?.what || changed.at(-1)?.figure ? [...changed, { what: '', figure: '', source: '', date: '' }] : changed)
  }
  const field = 'input input-xs'
  return (
    <form
      className="bg-base-200 my-3 space-y-4 px-4 py-3 text-sm"
      aria-label="question, claims, disclosure"
      onSubmit={(event) => {
        event.preventDefault()
        save()
      }}
    >
      <label className="block">
        <span className="soft">question</span>
        <input className="input input-sm mt-0.5 w-full" maxLength={300} value={question} onChange={(e) => { setQuestion(e.target.value) }} />
      </label>
      <datalist id="finding-kit">
        {kit.map((k) => (
          <option key={k} value={k} />
        ))}
      </datalist>
      <fieldset>
        <legend className="soft">claims to check: “20 to 35 % faster”, “60 % in 45 minutes”, “never over 40 °C”, “2 charges”</legend>
        {claims.map((c, n) => (
          <div key={n} className="mt-1 flex flex-wrap gap-2">
            <input className={`${field} w-44`} list="finding-kit" aria-label={`claim ${String(n + 1)} is of`} placeholder="of (charger or pack)" maxLength={120} value={c.about} onChange={(e) => { claimAt(n, { about: e.target.value }) }} />
            <input className={`${field} min-w-40 flex-1`} aria-label={`claim ${String(n + 1)}`} placeholder="claim, as it is made" maxLength={300} value={c.text} onChange={(e) => { claimAt(n, { text: e.target.value }) }} />
            <input className={`${field} w-44`} list="finding-kit" aria-label={`claim ${String(n + 1)} is against`} placeholder="against, where it compares" maxLength={120} value={c.against} onChange={(e) => { claimAt(n, { against: e.target.value }) }} />
          </div>
        ))}
      </fieldset>
      <fieldset>
        <legend className="soft">figures that others published: shown as theirs, in no calculation</legend>
        {foreign.map((f, n) => (
          <div key={n} className="mt-1 flex flex-wrap gap-2">
            <input className={`${field} min-w-40 flex-1`} aria-label={`figure of others ${String(n + 1)}, of what`} placeholder="what (charger, phone, to which %)" maxLength={300} value={f.what} onChange={(e) => { foreignAt(n, { what: e.target.value }) }} />
            <input className={`${field} w-28`} aria-label={`figure of others ${String(n + 1)}`} placeholder="figure, unit" maxLength={300} value={f.figure} onChange={(e) => { foreignAt(n, { figure: e.target.value }) }} />
            <input className={`${field} w-44`} aria-label={`figure of others ${String(n + 1)}, by whom`} placeholder="published by" maxLength={300} value={f.source} onChange={(e) => { foreignAt(n, { source: e.target.value }) }} />
            <input className={`${field} w-28`} aria-label={`figure of others ${String(n + 1)}, date`} placeholder="date" maxLength={120} value={f.date} onChange={(e) => { foreignAt(n, { date: e.target.value }) }} />
          </div>
        ))}
      </fieldset>
      <fieldset>
        <legend className="soft">how the kit was come by</legend>
        <div className="mt-1 grid grid-cols-[repeat(auto-fill,minmax(20rem,1fr))] gap-x-6 gap-y-1">
          {kit.map((label) => {
            const own = disclosed.get(label) ?? { label, got: 'not stated' as const, note: '' }
            const change = (next: Partial<typeof own>) => {
              setDisclosed(new Map(disclosed).set(label, { ...own, ...next }))
            }
            return (
              <div key={label} className="flex items-center gap-2">
                <span className="min-w-0 flex-1 truncate" title={label}>
                  {label}
                </span>
                <select className="select select-xs w-26" aria-label={`${label} was`} value={own.got} onChange={(e) => { change({ got: GOT.find((g) => g === e.target.value) ?? 'not stated' }) }}>
                  {GOT.map((g) => (
                    <option key={g}>{g}</option>
                  ))}
                </select>
                <input className={`${field} w-24`} aria-label={`note on ${label}`} placeholder="by whom" maxLength={300} value={own.note} onChange={(e) => { change({ note: e.target.value }) }} />
              </div>
            )
          })}
        </div>
      </fieldset>
      {elsewhere && !isPending && <p role="status">Somebody changed these meanwhile. Saving puts what stands here in their place.</p>}
      {error && <ProblemLine error={error} />}
      <div className="flex gap-2">
        <button className="btn btn-primary btn-sm" disabled={isPending || !question.trim()}>
          {isPending ? 'Drafting …' : 'Save and draft again'}
        </button>
        <button type="button" className="btn btn-ghost btn-sm font-normal" onClick={onDone}>
          Cancel
        </button>
      </div>
    </form>
  )
}
