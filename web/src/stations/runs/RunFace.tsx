import { useState } from 'react'
import type { Shape } from '../../api/client'
import { RunCharts } from '../../charts/RunCharts'
import { unbroken } from '../../ui/text'
import { useNarrow } from '../../ui/useNarrow'
import { RunSentence } from './RunSentence'

type Run = Shape['RunShape']

interface Props {
  run: Run
  lit: [number, number][]
  chosen: string | null
  onChoose: (key: string) => void
  onWorking: (figure: string) => void
}

/** What a run says beside its curves; on a narrow screen in turn, its ribbon always in sight. */
export function RunFace({ run, lit, chosen, onChoose, onWorking }: Props) {
  const narrow = useNarrow()
  const [curves, setCurves] = useState(false)
  const words = <Words run={run} chosen={chosen} onChoose={onChoose} onWorking={onWorking} />
  if (!narrow)
    return (
      <div className="mt-3 grid grid-cols-[304px_minmax(0,1fr)] gap-6 max-lg:grid-cols-1">
        {words}
        {/* The curves stay in sight while the sentences beside them scroll. */}
        <div className="bg-base-100 z-10 min-w-0 max-lg:order-first max-lg:[@media(min-height:1000px)]:sticky max-lg:[@media(min-height:1000px)]:top-0 lg:sticky lg:top-2 lg:self-start">
          <RunCharts run={run} lit={lit} onPhase={onChoose} />
        </div>
      </div>
    )
  return (
    <div className="mt-2">
      <div role="tablist" className="flex gap-2" aria-label="words or curves">
        {[false, true].map((which) => (
          <button
            key={String(which)}
            role="tab"
            aria-selected={curves === which}
            className={`btn btn-sm grow font-normal ${curves === which ? 'btn-neutral' : 'btn-outline border-base-300'}`}
            onClick={() => {
              setCurves(which)
            }}
          >
            {which ? 'Curves' : 'What it says'}
          </button>
        ))}
      </div>
      <div className={`min-w-0 ${curves ? '' : 'bg-base-100 border-base-300 sticky top-0 z-20 border-b pb-1'}`}>
        <RunCharts run={run} lit={lit} onPhase={onChoose} curves={curves} />
      </div>
      {!curves && words}
    </div>
  )
}

function Words({ run, chosen, onChoose, onWorking }: Omit<Props, 'lit'>) {
  return (
    <section aria-label="what this run says">
      {run.sentences.map((s) => (
        <RunSentence key={s.key} sentence={s} chosen={chosen === s.key} onChoose={onChoose} onWorking={onWorking} />
      ))}
      {run.warnings.length > 0 && (
        <div className="border-base-300 mt-3 border-t pt-2 text-sm">
          <h2 className="font-semibold">Careful</h2>
          <ul className="soft space-y-1">
            {run.warnings.map((w) => (
              <li key={w}>{unbroken(w)}</li>
            ))}
          </ul>
        </div>
      )}
    </section>
  )
}
