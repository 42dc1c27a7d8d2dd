import { useQuery } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'
import { useNavigate, useSearchParams } from 'react-router'
import { queries } from '../../api/queries'
import { useNewFinding } from '../../api/useNewFinding'
import { useOffered } from '../../api/useVersus'
import { usePlans } from '../../api/usePlans'
import { useSettings } from '../../reader/settings'
import { ProblemLine } from '../../ui/Problem'
import { AUDIENCES, type Audience } from './audiences'

const NONE = ''

/** A question, and of what it is to be answered: a plan, runs that go together, packs. */
export function NewFinding({ none }: { none: boolean }) {
  const [query] = useSearchParams()
  const navigate = useNavigate()
  const { degrees } = useSettings()
  const plans = usePlans()
  const offered = useOffered()
  const packs = useQuery(queries.packs())
  const make = useNewFinding()
  const given = query.get('runs')?.split(',').filter(Boolean) ?? []
  const fromPlan = query.get('plan') ?? NONE
  const [typed, setTyped] = useState<string | null>(query.get('question'))
  const [source, setSource] = useState<string | null>(given.length ? 'given' : fromPlan ? `plan ${fromPlan}` : null)
  const [chosen, setChosen] = useState<string[]>(query.getAll('pack'))
  const [audience, setAudience] = useState<Audience>('buyer')
  const groups = offered.data?.filter((o) => o.kind !== 'plan') ?? []
  const first = plans.data?.[0]
  const of = source ?? (first ? `plan ${first.id}` : groups[0] ? `group ${groups[0].title}` : NONE)
  const plan = of.startsWith('plan ') ? plans.data?.find((p) => p.id === of.slice(5)) : undefined
  const question = typed ?? plan?.question ?? ''
  // Nothing is drafted from what merely has not come yet.
  const waits = plans.isPending || offered.isPending || packs.isPending
  const [early, setEarly] = useState(false)
  const asked = useRef(false)
  const draft = () => {
    const group = of.startsWith('group ') ? groups.find((g) => g.title === of.slice(6)) : undefined
    make.mutate(
      {
        question, audience, degrees, packs: chosen, claims: [], foreign: [], disclosed: [],
        plan: plan?.id ?? null, runs: of === 'given' ? given : (group?.runs ?? []),
      },
      { onSuccess: (found) => void navigate(`/findings/${found.id}`) },
    )
  }
  // Whoever asks before all has come need not ask again.
  useEffect(() => {
    if (!asked.current || waits) return
    asked.current = false
    draft()
  })
  return (
    <form
      className="max-w-2xl"
      onSubmit={(event) => {
        event.preventDefault()
        asked.current = waits
        if (waits) setEarly(true)
        else draft()
      }}
    >
      <h1 className="text-2xl font-bold">{none ? 'What do you want to know?' : 'New question'}</h1>
      {none && <p className="soft mt-1">A finding answers a question from your runs in plain sentences, each with the figures that it stands on.</p>}
      <label className="mt-4 block">
        <span className="soft text-sm">question</span>
        <input
          className="input mt-0.5 w-full text-lg"
          autoFocus
          maxLength={300}
          placeholder="Which disc is fastest to 80 %, and stays under 43 °C?"
          value={question}
          onChange={(event) => {
            setTyped(event.target.value)
          }}
        />
      </label>
      <p className="soft mt-1 text-xs">“to 80 %” says how far chargers are compared, “under 43 °C” how hot the phone may get.</p>
      <label className="mt-3 block">
        <span className="soft text-sm">answered from</span>
        <select
          className="select mt-0.5 w-full"
          value={of}
          onChange={(event) => {
            setSource(event.target.value)
          }}
        >
          {given.length > 0 && <option value="given">{given.length} runs, as compared in Versus</option>}
          {plans.data?.map((p) => (
            <option key={p.id} value={`plan ${p.id}`}>
              plan: {p.question}
            </option>
          ))}
          {groups.map((g) => (
            <option key={g.title} value={`group ${g.title}`}>
              {g.kind === 'all' ? 'all runs' : `everything on ${g.title}`}: {g.runs.length} runs, {g.chargers} chargers
            </option>
          ))}
          <option value={NONE}>packs alone</option>
        </select>
      </label>
      {packs.data && packs.data.packs.length > 0 && (
        <fieldset className="mt-3">
          <legend className="soft text-sm">and packs</legend>
          <div className="mt-0.5 flex flex-wrap gap-x-4 gap-y-1 text-sm">
            {packs.data.packs.map((p) => (
              <label key={p.label} className="flex items-center gap-1.5">
                <input
                  type="checkbox"
                  className="checkbox checkbox-xs"
                  checked={chosen.includes(p.label)}
                  onChange={(event) => {
                    setChosen(event.target.checked ? [...chosen, p.label] : chosen.filter((x) => x !== p.label))
                  }}
                />
                {p.label}
              </label>
            ))}
          </div>
        </fieldset>
      )}
      <fieldset className="mt-3">
        <legend className="soft text-sm">for</legend>
        <div className="mt-0.5 flex gap-4 text-sm">
          {AUDIENCES.map((a) => (
            <label key={a.key} className="flex items-center gap-1.5">
              <input
                type="radio"
                name="audience"
                className="radio radio-xs"
                checked={audience === a.key}
                onChange={() => {
                  setAudience(a.key)
                }}
              />
              {a.name}
            </label>
          ))}
        </div>
      </fieldset>
      {make.error && (
        <div className="mt-3">
          <ProblemLine error={make.error} />
        </div>
      )}
      <button className="btn btn-primary mt-4" disabled={(early && waits) || make.isPending || question.trim() === ''}>
        {make.isPending ? 'Drafting …' : early && waits ? 'Looking at what there is …' : 'Draft the answer'}
      </button>
    </form>
  )
}
