import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { queries, type Asker } from '../../api/queries'
import { ProblemLine } from '../../ui/Problem'
import { Told } from './Told'
import type { Finding } from './useFinding'

/** Advice to somebody: which phone, which budget, at home or on the way, whether a fan disturbs. */
export function Advice({ finding }: { finding: Finding }) {
  const [asker, setAsker] = useState<Asker>({ tier: '', budget: null, currency: finding.currencies[0] ?? '', where: 'at home', quiet: false })
  const answer = useQuery(queries.advice(finding.id, finding.revision, asker))
  const change = (next: Partial<Asker>) => {
    setAsker({ ...asker, ...next })
  }
  return (
    <section aria-label="advice" className="mt-5">
      <h2 className="soft text-xs font-semibold">for somebody who asks</h2>
      <div className="mt-1 flex flex-wrap items-center gap-x-4 gap-y-2 text-sm">
        <label className="flex items-center gap-1.5">
          <span className="soft">a phone that takes</span>
          <select className="select select-xs w-40" value={asker.tier} onChange={(e) => { change({ tier: e.target.value }) }}>
            <option value="">any of these</option>
            {finding.tiers.map((t) => (
              <option key={t}>{t}</option>
            ))}
          </select>
        </label>
        <label className="flex items-center gap-1.5">
          <span className="soft">budget</span>
          <span className="input input-xs w-24">
            <input
              className="min-w-0 grow"
              inputMode="decimal"
              placeholder="any"
              onChange={(e) => {
                const typed = Number(e.target.value.replace(',', '.'))
                change({ budget: e.target.value.trim() === '' || !Number.isFinite(typed) || typed < 0 || typed > 1e6 ? null : typed })
              }}
            />
            <span className="soft">{asker.currency}</span>
          </span>
        </label>
        <label className="flex items-center gap-1.5">
          <span className="soft">where</span>
          <select className="select select-xs w-28" value={asker.where} onChange={(e) => { change({ where: e.target.value as Asker['where'] }) }}>
            <option>at home</option>
            <option>on the way</option>
          </select>
        </label>
        <label className="flex items-center gap-1.5">
          <input type="checkbox" className="checkbox checkbox-xs" checked={asker.quiet} onChange={(e) => { change({ quiet: e.target.checked }) }} />
          no fan
        </label>
      </div>
      {answer.isError && <ProblemLine error={answer.error} />}
      <div className="mt-1 space-y-1 text-sm" aria-live="polite">
        {answer.data?.lines.map((line) => <Advised key={line.key} line={line} />)}
      </div>
    </section>
  )
}

/** A line of advice is worked out for who asks: it is no sentence of the finding. */
const Advised = ({ line }: { line: Finding['draft']['answer'][number] }) => <Told sentence={line} plain />
