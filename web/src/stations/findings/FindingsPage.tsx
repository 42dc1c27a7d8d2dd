import { useQuery } from '@tanstack/react-query'
import { useMemo } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import { queries } from '../../api/queries'
import { ProblemLine } from '../../ui/Problem'
import { dateAt, ZONE } from '../../ui/times'
import { useKeys } from '../../ui/useKeys'
import { useNarrow } from '../../ui/useNarrow'
import { FindingView } from './FindingView'
import { NewFinding } from './NewFinding'
import { BringIn, PackageButton } from './Packages'

/** The findings at the left, the one in hand at the right. */
export function FindingsPage() {
  const { id } = useParams()
  const navigate = useNavigate()
  const list = useQuery(queries.findings())
  useKeys(useMemo(() => ({ q: () => void navigate('/findings/new') }), [navigate]))
  const making = id === 'new' || list.data?.length === 0
  const shown = making ? '' : (id ?? list.data?.[0]?.id ?? '')
  const finding = useQuery(queries.finding(shown))
  const narrow = useNarrow()
  const listed = (
    <>
      {list.isError && <ProblemLine error={list.error} />}
      <ul>
        {list.data?.map((f) => (
          <li key={f.id} className="border-base-300 border-b">
            <Link to={`/findings/${f.id}`} aria-current={f.id === shown ? 'page' : undefined} className="hover:bg-base-200 block py-2">
              <span className={`block leading-tight ${f.id === shown ? 'font-bold' : ''}`}>{f.question}</span>
              <span className={`text-xs ${f.stale ? 'text-warning' : 'soft'}`}>
                {f.stale ? 'out of date' : f.state} · {dateAt(f.published_at ?? f.drawn_at, ZONE)}
              </span>
            </Link>
          </li>
        ))}
      </ul>
      {!making && (
        <Link to="/findings/new" className="btn btn-outline border-base-300 btn-sm mt-3 w-full font-normal">
          New question
        </Link>
      )}
      <BringIn />
      <div className="mt-2 *:w-full">
        <PackageButton finding={null} text="Export everything" />
      </div>
    </>
  )
  return (
    <div className="grid h-full grid-cols-[13.5rem_minmax(0,1fr)] grid-rows-[minmax(0,1fr)] overflow-hidden max-md:block max-md:h-auto max-md:overflow-visible">
      {narrow ? (
        <details className="border-base-300 border-b px-4" key={shown}>
          <summary className="soft cursor-pointer text-sm">all findings: {list.data?.length ?? 0}</summary>
          <aside className="pb-4" aria-label="findings">
            {listed}
          </aside>
        </details>
      ) : (
        <aside className="border-base-300 overflow-y-auto border-r px-4 py-4 max-md:border-r-0 max-md:border-b" aria-label="findings">
          <h2 className="soft mb-1 text-xs font-semibold">findings</h2>
          {listed}
        </aside>
      )}
      <div className="relative min-w-0 overflow-y-auto px-6 pt-4 max-md:px-4">
        {making ? (
          <NewFinding none={list.data?.length === 0} />
        ) : finding.isError ? (
          <ProblemLine error={finding.error} />
        ) : finding.data ? (
          <FindingView key={finding.data.id} finding={finding.data} />
        ) : (
          <p className="soft">Reading the finding …</p>
        )}
      </div>
    </div>
  )
}
