import { Link } from 'react-router'
import type { Shape } from '../../api/client'
import { bytes, clock } from '../../ui/format'

/** Where the run comes from: its files, and what was corrected since. */
export function RunOrigin({ run }: { run: Shape['RunShape'] }) {
  return (
    <section aria-label="where it comes from" className="text-sm">
      <h2 className="mb-2 text-lg font-bold">Where it comes from</h2>
      <dl className="grid grid-cols-[7rem_1fr] gap-y-1">
        <dt className="soft">placed</dt>
        <dd>{run.placed_said.replace(/^placed /, '')}</dd>
        {run.started_at && (
          <>
            <dt className="soft">log begins</dt>
            <dd>
              {new Intl.DateTimeFormat('en-GB', { dateStyle: 'medium', timeStyle: 'medium', timeZone: run.zone }).format(
                new Date(run.started_at),
              )}{' '}
              ({run.zone})
            </dd>
          </>
        )}
        {run.outcome && (
          <>
            <dt className="soft">ended</dt>
            <dd>
              <b className={run.outcome === 'void' ? 'text-error' : ''}>{run.outcome}</b>
              {run.reason && `: ${run.reason}`}
            </dd>
          </>
        )}
        {run.bench.length > 0 && (
          <>
            <dt className="soft">on the bench</dt>
            <dd>
              <details>
                <summary className="cursor-pointer">{run.bench.length} entries of its log</summary>
                <table className="mt-1 w-full text-xs" aria-label="log of the bench">
                  <tbody>
                    {run.bench.map((e, i) => (
                      <tr key={i} className={e.undone ? 'line-through opacity-60' : ''}>
                        <td className="reading soft w-14">{clock(e.minute)}</td>
                        <td>
                          {e.said}
                          {e.first && <span className="soft"> (first: {e.first})</span>}
                        </td>
                        <td className="soft">{e.by}</td>
                      </tr>
                    ))}
                  </tbody>
                </table>
              </details>
            </dd>
          </>
        )}
        {run.method && (
          <>
            <dt className="soft">method</dt>
            <dd>
              {run.method.card}: {run.method.said}, as the card was then
              {run.method.plan && (
                <>
                  ; planned for “
                  <Link className="underline underline-offset-2" to={`/plan/${run.method.plan}`}>
                    {run.method.question}
                  </Link>
                  ”
                </>
              )}
            </dd>
          </>
        )}
        <dt className="soft">samples</dt>
        <dd>{run.samples.toLocaleString('en').replaceAll(',', ' ')}</dd>
        {run.files.map((f) => (
          <div key={f.role} className="contents">
            <dt className="soft">{f.role === 'checkins' ? 'check-ins' : f.role}</dt>
            <dd className="break-words" title={`SHA-256 ${f.sha256}`}>
              {f.name}, {bytes(f.size)}, kept as it came <span className="soft reading text-xs">{f.sha256.slice(0, 8)}</span>
            </dd>
          </div>
        ))}
      </dl>
      {run.rehearsal && (
        <>
          <h3 className="mt-3 font-semibold">What it was simulated from, seed {run.rehearsal.seed}</h3>
          <table>
            <tbody>
              {run.rehearsal.origins.map((g) => (
                <tr key={g.what}>
                  <th scope="row" className="soft pr-3 text-left font-normal">
                    {g.what}
                  </th>
                  <td className="pr-3">{g.value}</td>
                  <td className="soft">{g.origin}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
      {run.corrections.length > 0 && (
        <>
          <h3 className="mt-3 font-semibold">Corrections</h3>
          <ul>
            {run.corrections.map((c, i) => (
              <li key={i}>
                {c.what}: {c.now} <span className="soft">(first {c.first})</span>{' '}
                <span className="soft">
                  {c.by || 'unsigned'}, {new Date(c.at).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })}
                </span>
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  )
}
