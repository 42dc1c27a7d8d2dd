import { useMutation } from '@tanstack/react-query'
import { useChanged } from '../../api/useChanged'
import { useMemo, useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import { api, taken, type Shape } from '../../api/client'
import { useRun } from '../../api/useRun'
import { phaseKey } from '../../charts/PhaseStrip'
import { RunCharts } from '../../charts/RunCharts'
import { bytes, clock } from '../../ui/format'
import { HowSign } from '../../ui/HowSign'
import { ProblemLine } from '../../ui/Problem'
import { useSay } from '../../ui/Undo'
import { useKeys } from '../../ui/useKeys'
import { dipKey } from './causes'
import { CorrectRun } from './CorrectRun'
import { Figures } from './Figures'
import { HabitsForm } from '../../shared/HabitsForm'
import { Judgement } from './Judgement'
import { OutputPanel } from './OutputPanel'
import { Simulated } from '../../shared/Simulated'
import { versusPath } from '../../shared/paths'
import { chainLine, figureKey, kept } from '../../shared/words'
import { Remarks } from './Remarks'

type Sentence = Shape['SentenceShape']

/** One run, read: what it says beside its curves, then its figures and their working. */
export function RunPage() {
  const { id = '' } = useParams()
  const run = useRun(id)
  if (run.isPending) return <p className="soft p-6">Reading the run …</p>
  if (run.isError)
    return (
      <div className="space-y-3 p-6">
        <ProblemLine error={run.error} />
        <Link className="underline" to="/runs">
          Back to the runs
        </Link>
      </div>
    )
  return <Reading key={id} run={run.data} />
}

function Reading({ run }: { run: Shape['RunShape'] }) {
  const navigate = useNavigate()
  const changed = useChanged('run')
  const say = useSay()
  const [chosen, setChosen] = useState<string | null>(null)
  const [working, setWorking] = useState<string | null>(null)
  const [correcting, setCorrecting] = useState(false)
  useKeys(
    useMemo(
      () => ({
        Escape: () => {
          setChosen(null)
        },
      }),
      [],
    ),
  )
  const params = { path: { run_id: run.id } }
  const refresh = changed
  const removed = useMutation({
    mutationFn: async () => taken(await api.DELETE('/api/runs/{run_id}', { params })),
    onSuccess: async () => {
      await navigate('/runs')
      await refresh()
      say({
        text: `“${run.label}” was deleted.`,
        undo: async () => {
          taken(await api.POST('/api/runs/{run_id}/restored', { params }))
          await refresh()
        },
      })
    },
  })
  const places = useMemo(() => placesOf(run), [run])
  const lit = useMemo(() => (chosen === null ? [] : (places.get(chosen) ?? [])), [chosen, places])
  const choose = (key: string) => {
    setChosen(chosen === key ? null : key)
  }

  const showWorking = (figure: string) => {
    setWorking(figure)
    requestAnimationFrame(() => document.getElementById(`figure-${figure}`)?.scrollIntoView({ block: 'center' }))
  }

  return (
    <article className="px-6 pt-4 pb-10">
      <div className="flex items-baseline gap-x-4 max-lg:flex-wrap">
        <h1 className="max-w-[30rem] shrink-0 truncate text-2xl font-bold" title={run.label}>
          {run.label}
        </h1>
        {run.simulated && <Simulated />}
        <p className="soft min-w-0 truncate text-sm" title={chainLine(run.factors)}>
          {chainLine(run.factors)}
          {run.origin === 'demo' && ' · invented for the demonstration'}
          {run.method && (
            <>
              {' · '}
              {run.method.plan ? (
                <Link className="underline underline-offset-2" to={`/plan/${run.method.plan}`} title={run.method.question}>
                  {run.method.card}
                </Link>
              ) : (
                <span title={run.method.said}>{run.method.card}</span>
              )}
            </>
          )}
        </p>
        <div className="ml-auto flex shrink-0 gap-2 self-center">
          <Link className="btn btn-sm btn-outline border-base-300 font-normal" to={versusPath([run.id])}>
            Compare
          </Link>
          <button className="btn btn-sm btn-outline border-base-300 font-normal" onClick={() => { setCorrecting(true) }}>
            Correct
          </button>
          <a className="btn btn-sm btn-outline border-base-300 font-normal" href={`/api/exports/runs/${run.id}.zip`} download>
            Export
          </a>
          <button className="btn btn-sm btn-outline border-base-300 font-normal" onClick={() => { removed.mutate() }}>
            Delete
          </button>
        </div>
      </div>
      {removed.isError && <ProblemLine error={removed.error} />}
      {run.copy_of && (
        <p className="bg-base-200 mt-2 flex gap-3 px-3 py-1.5 text-sm">
          <span>
            A copy of{' '}
            <Link className="underline underline-offset-2" to={`/runs/${run.copy_of.id}`}>
              {run.copy_of.label}
            </Link>
            : the same file, read twice. It is no repeat, and comparisons leave it out.
          </span>
          <button className="cursor-pointer underline underline-offset-2" onClick={() => { removed.mutate() }}>
            Delete the copy
          </button>
        </p>
      )}
      <div className="mt-3 grid grid-cols-[304px_minmax(0,1fr)] gap-6 max-lg:grid-cols-1">
        <section aria-label="what this run says">
          {run.sentences.map((s) => (
            <Said key={s.key} sentence={s} chosen={chosen === s.key} onChoose={choose} onWorking={showWorking} />
          ))}
          {run.warnings.length > 0 && (
            <div className="border-base-300 mt-3 border-t pt-2 text-sm">
              <h2 className="font-semibold">Careful</h2>
              <ul className="soft space-y-1">
                {run.warnings.map((w) => (
                  <li key={w}>{kept(w)}</li>
                ))}
              </ul>
            </div>
          )}
        </section>
        <RunCharts run={run} lit={lit} onPhase={choose} />
      </div>
      {run.judged && run.judged.phases.length > 0 && <Judgement run={run} judged={run.judged} chosen={chosen} onChoose={choose} />}
      {run.judged?.output && <OutputPanel run={run} output={run.judged.output} judged={run.judged} />}
      <Figures run={run} chosen={chosen} onChoose={choose} open={working} onOpen={setWorking} />
      <HabitsForm />
      <div className="mt-8 grid gap-8 lg:grid-cols-2">
        <Remarks run={run} />
        <Origin run={run} />
      </div>
      {correcting && <CorrectRun run={run} onClose={() => { setCorrecting(false) }} />}
    </article>
  )
}

interface SaidProps {
  sentence: Sentence
  chosen: boolean
  onChoose: (key: string) => void
  onWorking: (figure: string) => void
}

function Said({ sentence, chosen, onChoose, onWorking }: SaidProps) {
  return (
    <div className={`flex items-start border-l-4 ${chosen ? 'border-base-content bg-accent' : 'hover:bg-base-200 border-transparent'}`}>
      <button
        aria-pressed={chosen}
        onClick={() => {
          onChoose(sentence.key)
        }}
        className="block min-w-0 grow cursor-pointer py-1.5 pl-3 text-left leading-snug"
      >
        <span className="block">
          {sentence.words.map((w, i) => (w.strong ? <b key={i}>{kept(w.text)}</b> : <span key={i}>{kept(w.text)}</span>))}
        </span>
        <span className="soft block text-xs">{kept(sentence.basis)}</span>
      </button>
      {sentence.figure && (
        <span className="mt-2 ml-1">
          <HowSign
            onClick={() => {
              onWorking(sentence.figure)
            }}
          />
        </span>
      )}
    </div>
  )
}

/** The stretches that each sentence, figure, dip and phase stands for, minutes after placing. */
function placesOf(run: Shape['RunShape']): Map<string, [number, number][]> {
  return new Map([
    ...run.sentences.map((s): [string, [number, number][]] => [
      s.key,
      (s.places.length > 0 ? s.places : [s]).map((p): [number, number] => [p.start, p.end]),
    ]),
    ...run.figures.flatMap((f): [string, [number, number][]][] =>
      f.start === null || f.end === null ? [] : [[figureKey(f), [[f.start, f.end]]]],
    ),
    ...(run.judged?.dips ?? []).map((d, i): [string, [number, number][]] => [dipKey(i), [[d.start, d.end]]]),
    ...(run.judged?.phases ?? []).map((p, i): [string, [number, number][]] => [phaseKey(i), [[p.start, p.end]]]),
  ])
}

/** Where the run comes from: its files, and what was corrected since. */
function Origin({ run }: { run: Shape['RunShape'] }) {
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
