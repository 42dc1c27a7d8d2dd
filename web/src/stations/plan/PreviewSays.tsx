import type { Shape } from '../../api/client'
import type { Draft } from './draft'
import { momentAt } from '../../ui/times'
import { Strong } from '../../ui/text'
import { Wide } from '../../ui/Wide'

interface Props {
  preview: Shape['PreviewShape'] | undefined
  draft: Draft
  behind: boolean
}

/** What the plan in the making can show, what it mixes up, what it costs, and when it would be over. */
export function PreviewSays({ preview, draft, behind }: Props) {
  const findings = preview?.findings
  return (
    <div className={`text-sm ${behind ? 'soft' : ''}`} aria-busy={behind}>
      <h2 className="text-base font-bold">What this can show</h2>
      {preview?.refused && (
        <p role="status" className="border-warning text-warning mt-2 border-l-4 px-3 py-1">
          {preview.refused}
        </p>
      )}
      {!findings && !preview?.refused && <p className="soft mt-1">Working it out …</p>}
      {findings && (
        <>
          <p className="mt-1">
            <Strong text={findings.shows} /> {findings.one_more && <Strong text={findings.one_more} />}
          </p>
          {findings.trades.length > 0 && <Trades trades={findings.trades} draft={draft} />}
          {findings.resolutions.length > 0 && <Resolutions findings={findings} />}
          {findings.warnings.length + preview.warm.length > 0 && (
            <>
              <h3 className="mt-3 font-semibold">Careful</h3>
              <ul className="space-y-1">
                {[...findings.warnings, ...preview.warm.slice(0, 1)].map((w) => (
                  <li key={w}>{w}</li>
                ))}
              </ul>
              {preview.warm.length > 1 && (
                <details className="soft">
                  <summary className="cursor-pointer">{preview.warm.length - 1} more chargers still warm</summary>
                  <ul className="space-y-1">
                    {preview.warm.slice(1).map((w) => (
                      <li key={w}>{w}</li>
                    ))}
                  </ul>
                </details>
              )}
            </>
          )}
          <h3 className="mt-3 font-semibold">
            {preview.over_at ? `Ends ${momentAt(preview.over_at, draft.wishes.zone)}, first estimate` : 'When it is over'}
          </h3>
          <p className="soft">
            {findings.said}. {findings.why_order}
          </p>
          <h3 className="mt-3 font-semibold">Wear on the phones</h3>
          <p>{findings.cost}</p>
          <p className="soft">
            Drain and cool-down:{' '}
            {Object.entries(findings.drains)
              .map(([p, m]) => `${p}: ${m.toFixed(0)} + ${(findings.cools[p] ?? 0).toFixed(0)} min`)
              .join(', ')}
            .
          </p>
        </>
      )}
    </div>
  )
}

/** The smallest difference by rounds and interval; the plan's own in bold. */
function Trades({ trades, draft }: { trades: Shape['Trade'][]; draft: Draft }) {
  const intervals = [...new Set(trades.map((t) => t.interval_min))]
  const repeats = [...new Set(trades.map((t) => t.repeats))]
  const own = draft.card.interval_min ?? 10
  return (
    <Wide least={24} className="mt-2 w-full text-right tabular-nums" aria-label="smallest difference by rounds and interval">
      <caption className="soft text-left text-xs">smallest difference detected [min], by check-ins and rounds</caption>
      <thead>
        <tr className="soft text-xs">
          <th scope="col" className="text-left font-normal">
            every
          </th>
          {repeats.map((r) => (
            <th key={r} scope="col" className="font-normal">
              {r} {r === 1 ? 'round' : ''}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {intervals.map((i) => (
          <tr key={i}>
            <th scope="row" className="soft text-left font-normal">
              {i === 0 ? 'continuous' : `${String(i)} min`}
            </th>
            {repeats.map((r) => {
              const here = trades.find((t) => t.repeats === r && t.interval_min === i)
              const mine = r === draft.choice.repeats && i === own
              return (
                <td key={r} className={mine ? 'bg-primary text-primary-content font-bold' : ''}>
                  {here?.difference_min === null || here === undefined ? 'none' : here.difference_min.toFixed(0)}
                </td>
              )
            })}
          </tr>
        ))}
      </tbody>
    </Wide>
  )
}

/** Phone by phone, for a pair and within a ranking; and how it is worked out. */
function Resolutions({ findings }: { findings: Shape['FindingsShape'] }) {
  return (
    <details className="mt-2">
      <summary className="soft cursor-pointer">phone by phone, and how it is worked out</summary>
      <Wide least={24} className="mt-1 w-full text-right tabular-nums">
        <thead>
          <tr className="soft text-xs">
            <th className="text-left font-normal">phone</th>
            <th className="font-normal">takes</th>
            <th className="font-normal">a pair</th>
            <th className="font-normal">a ranking</th>
          </tr>
        </thead>
        <tbody>
          {findings.resolutions.map((r) => (
            <tr key={r.phone + String(r.percent)}>
              <th scope="row" className="text-left font-normal">
                {r.phone} to {r.percent} %
              </th>
              <td>{r.minutes.toFixed(0)} min</td>
              <td>{r.single === null ? 'none' : `${r.single.toFixed(0)} min`}</td>
              <td>{r.ranking === null ? 'none' : `${r.ranking.toFixed(0)} min`}</td>
            </tr>
          ))}
        </tbody>
      </Wide>
      <p className="soft mt-1 text-xs">
        A difference is shown where it exceeds t × its standard uncertainty: the spread of one run, assumed and counting as 4
        degrees of freedom until repeats measure it, with the interval between check-ins as a rectangle. The figures are the
        smallest that this rule detects with 80 % probability; a ranking takes the strictest step of Holm’s correction.
      </p>
    </details>
  )
}
