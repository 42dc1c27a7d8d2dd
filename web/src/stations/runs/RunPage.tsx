import { useMutation } from '@tanstack/react-query'
import { useChanged } from '../../api/useChanged'
import { useMemo, useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import { api, taken, type Shape } from '../../api/client'
import { useRun } from '../../api/useRun'
import { phaseKey } from '../../charts/PhaseStrip'
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
import { chainLine, figureKey } from '../../shared/words'
import { Remarks } from './Remarks'
import { PackWalk } from '../../shared/PackWalk'
import { Walk } from '../../shared/Walk'
import { RunOrigin } from './RunOrigin'
import { RunFace } from './RunFace'

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
    <article className="px-6 pt-4 pb-10 max-sm:px-3">
      <div className="flex items-baseline gap-x-4 max-lg:flex-wrap">
        <h1 className="max-w-[30rem] shrink-0 truncate text-2xl font-bold max-sm:shrink max-sm:leading-tight max-sm:whitespace-normal" title={run.label}>
          {run.label}
        </h1>
        {run.simulated && <Simulated />}
        <p className="soft min-w-0 truncate text-sm max-sm:whitespace-normal" title={chainLine(run.factors)}>
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
        <div className="ml-auto flex shrink-0 gap-2 self-center max-sm:mt-1 max-sm:ml-0">
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
      <RunFace run={run} lit={lit} chosen={chosen} onChoose={choose} onWorking={showWorking} />
      {run.judged && run.judged.phases.length > 0 && <Judgement run={run} judged={run.judged} chosen={chosen} onChoose={choose} />}
      {run.judged?.output && <OutputPanel run={run} output={run.judged.output} judged={run.judged} />}
      {run.stages.length > 1 && (
        <figure className="mt-8 overflow-x-auto">
          <figcaption className="text-sm">
            <b className="text-base">Energy along its chain</b> <span className="soft">Wh over one window, at each point that was logged</span>
          </figcaption>
          <Walk stages={run.stages} name={run.label} />
        </figure>
      )}
      <Figures run={run} chosen={chosen} onChoose={choose} open={working} onOpen={setWorking} />
      <HabitsForm />
      <div className="mt-8 grid grid-cols-1 gap-8 lg:grid-cols-2">
        <Remarks run={run} />
        <RunOrigin run={run} />
        {[...new Set([run.factors.charger, run.factors.adapter])].filter(Boolean).map((label) => (
          <PackWalk key={label} label={label ?? ''} />
        ))}
      </div>
      {correcting && <CorrectRun run={run} onClose={() => { setCorrecting(false) }} />}
    </article>
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
