import { useState, type ReactNode } from 'react'
import { Link, useNavigate, useSearchParams } from 'react-router'
import { useVersus, type Versus } from '../../api/useVersus'
import { newFindingPath } from '../../shared/paths'
import { ProblemLine } from '../../ui/Problem'
import { useSettings } from '../../reader/settings'
import { useSay } from '../../ui/Undo'
import { useKeys } from '../../ui/useKeys'
import { Claim } from './Claim'
import { filePath, useCompared } from './compared'
import { Copies } from './Copies'
import { Curves } from './Curves'
import { Effects } from './Effects'
import { OtherPhone } from './OtherPhone'
import { Pairs } from './Pairs'
import { Offered, PickRuns } from './Pick'
import { Stack } from './Stack'
import { Value } from './Value'
import { WindowFields } from './WindowFields'
import { begun, Strong, unbroken } from '../../ui/text'

const TABS = [
  { key: 'words', name: 'In words' },
  { key: 'curves', name: 'Curves' },
  { key: 'effects', name: 'What each thing does' },
  { key: 'value', name: 'Energy and price' },
  { key: 'claim', name: 'A claim' },
  { key: 'phone', name: 'Another phone' },
] as const
type Tab = (typeof TABS)[number]['key']

/** Runs against each other: who is sooner, by how much, whether that is more than noise, and whether it is fair. */
export function VersusPage() {
  const [compared, change] = useCompared()
  const { degrees } = useSettings()
  const answer = useVersus(compared, degrees)
  const navigate = useNavigate()
  const say = useSay()
  const [picking, setPicking] = useState(false)
  const [chosen, setChosen] = useState<number | null>(null)
  const [tab, setTab] = useTab()
  const some = compared.runs.length > 1
  useKeys({
    a: () => {
      setPicking(true)
    },
    c: () => {
      if (some) setTab('claim')
    },
    o: () => {
      if (some) setTab('phone')
    },
    m: () => void navigate('/versus/table'),
    Escape: () => {
      setChosen(null)
    },
  })
  const setRuns = (runs: string[]) => {
    setChosen(null)
    // Another choice of runs has another window of its own.
    change({ runs, start: null, end: null })
  }
  const remove = (n: number) => {
    const row = answer.data?.rows[n]
    // Rows of the comparison before may hold other runs than those to come.
    if (!row || answer.isPlaceholderData) return
    const before = compared.runs
    const gone = new Set(row.runs.map((r) => r.id))
    setChosen(null)
    change({ runs: before.filter((id) => !gone.has(id)) })
    say({
      text: `${row.label} is taken out.`,
      undo: () => {
        change({ runs: before })
        return Promise.resolve()
      },
    })
  }
  const versus = answer.data && some ? answer.data : null
  const window = versus && !answer.isError ? versus.window : some && answer.isError ? compared : null
  return (
    <div className="flex min-h-full flex-col px-6 pt-3 pb-6 max-sm:px-3">
      <div className="flex items-center gap-4 max-sm:flex-wrap max-sm:gap-2">
        <h1 className="text-2xl font-bold">Versus</h1>
        <Link to="/versus/table" className="soft hover:text-base-content text-lg whitespace-nowrap underline decoration-dotted underline-offset-4">
          Phones × chargers
        </Link>
        <p className="soft min-w-0 grow truncate text-sm max-sm:basis-full max-sm:whitespace-normal" title={versus?.shared}>
          {versus && unbroken(versus.shared)}
        </p>
        {versus && (
          <>
            <Link className="btn btn-sm btn-outline border-base-300 font-normal" to={newFindingPath({ runs: compared.runs })}>
              Finding
            </Link>
            <a className="btn btn-sm btn-outline border-base-300 font-normal" href={filePath('pairs.csv', compared, versus.window)} download>
              CSV
            </a>
            <a className="btn btn-sm btn-outline border-base-300 font-normal" href={filePath('comparison.json', compared, versus.window)} download>
              JSON
            </a>
          </>
        )}
        {some && (
          <button
            className="btn btn-sm btn-ghost font-normal"
            onClick={() => {
              setRuns([])
            }}
          >
            Something else
          </button>
        )}
        <button
          className="btn btn-primary btn-sm"
          onClick={() => {
            setPicking(true)
          }}
        >
          {some ? 'Add runs' : 'Choose runs'}
        </button>
      </div>
      {!some && (
        <>
          <p className="soft mt-3 max-w-2xl">
            {compared.runs.length === 1
              ? 'There is one run only: a comparison needs two. Add another, or take one of these.'
              : 'Which is faster, cooler, thriftier? Take one of these, or choose runs by hand.'}
          </p>
          <Offered />
        </>
      )}
      {window && (
        <WindowFields
          key={`${String(window.start)} ${String(window.end)}`}
          window={window}
          windows={versus?.windows ?? []}
          compared={compared}
          onChange={change}
          busy={answer.isFetching}
        />
      )}
      {some && answer.isError && (
        <div className="mt-4">
          <ProblemLine error={answer.error} />
          {compared.start === null && compared.end === null ? null : (
            <button
              className="mt-2 cursor-pointer text-sm underline underline-offset-2"
              onClick={() => {
                change({ start: null, end: null })
              }}
            >
              the window that they share
            </button>
          )}
        </div>
      )}
      {some && !answer.data && answer.isPending && <p className="soft py-8">Comparing …</p>}
      {versus && !answer.isError && (
        <>
          <div aria-busy={answer.isPlaceholderData} className={answer.isPlaceholderData ? 'soft pointer-events-none' : ''}>
            <Stack versus={versus} chosen={chosen} onChoose={setChosen} onRemove={remove} />
          </div>
          {versus.reading.length > 0 && <p className="mt-2 text-sm">Being read again, and left out until then: {versus.reading.join(', ')}.</p>}
          <Copies copies={versus.copies} />
          <Tabs tab={tab} onTab={setTab} beside={begun(versus.noise)} />
          <div role="tabpanel" aria-label={TABS.find((t) => t.key === tab)?.name}>
            <Panel tab={tab} versus={versus}>
              {tab === 'words' && (
                <>
                  <Overall versus={versus} />
                  <Pairs versus={versus} chosen={chosen} onInstead={setRuns} />
                </>
              )}
              {tab === 'curves' && <Curves versus={versus} chosen={chosen} onChoose={setChosen} />}
              {tab === 'effects' && <Effects versus={versus} />}
              {tab === 'value' && <Value versus={versus} />}
              {tab === 'claim' && <Claim key={compared.runs.join()} versus={versus} compared={compared} />}
              {tab === 'phone' && <OtherPhone key={compared.runs.join()} versus={versus} compared={compared} />}
            </Panel>
          </div>
        </>
      )}
      {picking && (
        <PickRuns
          runs={compared.runs}
          onRuns={setRuns}
          onClose={() => {
            setPicking(false)
          }}
        />
      )}
    </div>
  )
}

function useTab(): [Tab, (tab: Tab) => void] {
  const [query, setQuery] = useSearchParams()
  const wanted = query.get('see')
  const tab = TABS.find((t) => t.key === wanted)?.key ?? 'words'
  return [
    tab,
    (next) => {
      const q = new URLSearchParams(query)
      if (next === 'words') q.delete('see')
      else q.set('see', next)
      setQuery(q, { replace: true })
    },
  ]
}

function Tabs({ tab, onTab, beside }: { tab: Tab; onTab: (tab: Tab) => void; beside: string }) {
  const walk = (event: React.KeyboardEvent) => {
    const by = { ArrowRight: 1, ArrowLeft: -1 }[event.key]
    if (by === undefined) return
    const next = TABS[(TABS.findIndex((t) => t.key === tab) + by + TABS.length) % TABS.length]
    if (!next) return
    onTab(next.key)
    event.currentTarget.querySelector<HTMLElement>(`[data-tab="${next.key}"]`)?.focus()
  }
  return (
    <div className="border-base-content mt-4 flex items-end gap-1 border-b max-lg:overflow-x-auto" role="tablist" aria-label="what to see" onKeyDown={walk}>
      {TABS.map((t) => (
        <button
          key={t.key}
          role="tab"
          data-tab={t.key}
          aria-selected={tab === t.key}
          tabIndex={tab === t.key ? 0 : -1}
          className={`cursor-pointer px-3 py-1 whitespace-nowrap max-sm:min-h-11 ${tab === t.key ? 'bg-neutral text-neutral-content' : 'hover:bg-base-200'}`}
          onClick={() => {
            onTab(t.key)
          }}
        >
          {t.name}
        </button>
      ))}
      <span className="soft ml-auto truncate pb-1 text-xs max-lg:hidden" title={beside}>
        {unbroken(beside)}
      </span>
    </div>
  )
}

/** What is seen, and under it what to be careful about. */
function Panel({ tab, versus, children }: { tab: Tab; versus: Versus; children: ReactNode }) {
  return (
    <>
      {children}
      {versus.warnings.length > 0 && tab !== 'claim' && (
        <section aria-label="what to be careful about" className="mt-4">
          <h2 className="text-sm font-semibold">Be careful</h2>
          <ul className="text-sm">
            {versus.warnings.map((w) => (
              <li key={w} className="border-base-300 border-b py-0.5">
                {unbroken(w)}
              </li>
            ))}
          </ul>
        </section>
      )}
    </>
  )
}

/** The comparison as a whole. */
function Overall({ versus }: { versus: Versus }) {
  return (
    <ul aria-label="the whole in words" className="bg-base-200 mt-2 flex flex-wrap gap-x-8 gap-y-0.5 px-3 py-1.5">
      {versus.sentences.map((s) => (
        <li key={s} className="text-sm">
          <Strong text={s} />.
        </li>
      ))}
    </ul>
  )
}
