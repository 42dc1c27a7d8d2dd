import { useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import type { Problem, Shape } from '../../api/client'
import { lines } from '../../api/lines'
import { queries } from '../../api/queries'
import { useChanged } from '../../api/useChanged'
import { useKit } from '../../api/useKit'
import { useSettings } from '../../reader/settings'
import { versusPath } from '../../shared/paths'
import { percent } from '../../ui/format'
import { ProblemLine } from '../../ui/Problem'
import { asFound, groupsOf, type RunWish } from './manyRuns'
import { ManyRow } from './ManyRow'
import { caseOf, NOTHING_STATED, notNumbers, RunFields } from './RunFields'

type Told = Shape['RunsProgress'] & { problem?: Problem }

const zone = Intl.DateTimeFormat().resolvedOptions().timeZone || 'UTC'

/** The runs of one file: seen one by one, named, dropped or joined, then stored in one step. */
export function ManyPage() {
  const { upload = '' } = useParams()
  const found = useQuery(queries.fileRuns(upload, zone))
  const kit = useKit()
  const chargers = kit.data?.filter((k) => k.kind === 'charger' || k.kind === 'pack').map((k) => k.label)
  if (found.isPending || kit.isPending) return <p className="soft p-6">Looking for runs in the file …</p>
  if (found.isError)
    return (
      <div className="space-y-3 p-6">
        <ProblemLine error={found.error} />
        <Link className="underline" to="/runs/read">
          Back to reading
        </Link>
      </div>
    )
  return <Runs key={upload} upload={upload} file={found.data} chargers={chargers ?? []} />
}

interface Props {
  upload: string
  file: Shape['FileRunsShape']
  /** Labels of the chargers on the shelf. */
  chargers: string[]
}

function Runs({ upload, file, chargers }: Props) {
  const navigate = useNavigate()
  const changed = useChanged('run')
  const { degrees } = useSettings()
  const [wishes, setWishes] = useState(() => file.runs.map((run) => asFound(run, chargers)))
  const [stated, setStated] = useState(NOTHING_STATED)
  const [fraction, setFraction] = useState(0)
  const minutes = Math.max(30, ...file.runs.map((r) => r.ribbon?.minutes ?? r.minutes))
  const fullWatts = Math.max(10, ...file.runs.flatMap((r) => r.ribbon?.watts.map((w) => w ?? 0) ?? []))
  const groups = groupsOf(file.runs, wishes)
  const bad = notNumbers(stated).length > 0
  const store = useMutation({
    mutationFn: async () =>
      lines<Told>(
        '/api/runs/many',
        {
          upload,
          runs: groups.map(({ ns, wish }) => ({
            ns,
            label: wish.label,
            factors: { ...NOTHING_STATED.factors, phone: wish.phone, charger: wish.charger },
          })),
          factors: stated.factors,
          case: caseOf(stated, degrees),
          note: '',
          zone,
        },
        (line) => {
          setFraction(line.fraction)
        },
        (line) => line.step === 'done',
      ),
    onSuccess: async (last) => {
      const stored = last.runs ?? []
      await changed()
      await navigate(stored.length > 1 ? versusPath(stored) : `/runs/${stored[0] ?? ''}`)
    },
  })
  const change = (n: number, wish: Partial<RunWish>) => {
    setWishes((now) => now.map((w, i) => (i === n ? { ...w, ...wish } : w)))
  }
  const isLog = file.runs[0]?.kind === 'log'
  return (
    <form
      className="flex h-full flex-col"
      onSubmit={(e) => {
        e.preventDefault()
        store.mutate()
      }}
    >
      <div className="min-h-0 flex-1 overflow-auto px-6 pt-4 pb-6">
        <div className="mb-2 flex items-baseline gap-4">
          <h1 className="min-w-0 truncate text-2xl font-bold" title={file.name}>
            {file.runs.length} {file.runs.length === 1 ? 'run' : 'runs'} in {file.name}
          </h1>
          <p className="soft shrink-0 text-sm">Nothing is stored before you say so; then all of them, or none.</p>
        </div>
        {file.read_before.length > 0 && (
          <p className="bg-base-200 mb-2 px-3 py-1.5 text-sm">
            This file was read before: {file.read_before.slice(0, 4).map((r) => r.label).join(', ')}
            {file.read_before.length > 4 && ` and ${String(file.read_before.length - 4)} more`}.
          </p>
        )}
        {file.left_out.length > 0 && (
          <details className="mb-2 text-sm" open={file.left_out.length < 4}>
            <summary className="cursor-pointer font-semibold">Left out: {file.left_out.length}</summary>
            <ul className="soft mt-1">
              {file.left_out.map((text) => (
                <li key={text}>{text}</li>
              ))}
            </ul>
          </details>
        )}
        <div className="grid grid-cols-[minmax(0,1fr)_340px] gap-7 max-lg:grid-cols-1">
          <section aria-label="runs of the file">
            <ul>
              {file.runs.map((run, n) => (
                <ManyRow
                  key={run.n}
                  run={run}
                  wish={wishes[n] ?? asFound(run, chargers)}
                  minutes={minutes}
                  fullWatts={fullWatts}
                  canJoin={isLog && n > 0}
                  onChange={(wish) => {
                    change(n, wish)
                  }}
                />
              ))}
            </ul>
          </section>
          <section aria-label="what holds for all of them" className="space-y-3">
            <h2 className="text-sm font-semibold">
              What holds for all <span className="soft font-normal">· a run's own phone and charger go before these</span>
            </h2>
            <RunFields stated={stated} withLabel={false} onChange={setStated} />
          </section>
        </div>
      </div>
      <div className="border-base-300 bg-base-100 flex items-center gap-4 border-t px-6 py-2.5">
        <div className="grow text-sm">
          {store.isPending ? (
            <span role="status">storing {groups.length} runs … {fraction > 0 ? percent(fraction) : ''}</span>
          ) : store.isError ? (
            <ProblemLine error={store.error} />
          ) : (
            <span className="soft">{bad ? 'A number field has text in it.' : groups.length ? readyText(groups.length, file.runs.length) : 'No run is chosen.'}</span>
          )}
        </div>
        <Link to="/runs/read" className="btn btn-sm btn-ghost font-normal">
          Back
        </Link>
        <button className="btn btn-primary btn-sm px-6" disabled={bad || groups.length === 0 || store.isPending}>
          Store {groups.length === 1 ? 'the run' : `${String(groups.length)} runs`}
        </button>
      </div>
    </form>
  )
}

const readyText = (chosen: number, of: number) => (chosen === of ? 'Ready: all of them are stored in one step.' : `${String(chosen)} of ${String(of)} are stored in one step.`)
