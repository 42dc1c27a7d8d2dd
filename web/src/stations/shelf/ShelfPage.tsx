import { useMemo } from 'react'
import { Link, useNavigate, useSearchParams } from 'react-router'
import type { Shape } from '../../api/client'
import { NO_CASE_SAID } from '../../api/rules'
import { useChain, useRehearse, type ChainChoice } from '../../api/useChain'
import { useKit, type Kit } from '../../api/useKit'
import { ProblemLine } from '../../ui/Problem'
import { useSay } from '../../ui/Undo'
import { useKeys } from '../../ui/useKeys'
import { useNarrow } from '../../ui/useNarrow'
import { AroundFields } from './AroundFields'
import { Channel } from './Channel'
import { ChannelDown } from './ChannelDown'
import { piecesFor, type Slot } from '../../shared/pieces'
import { choiceFrom, NONE, type Choose } from './choice'
import { CoverageTable } from './CoverageTable'
import { counted } from './counted'
import { ForecastChart } from './ForecastChart'

const SEEDS = 100_000

/** The chain in hand and what it will do; below, every charger with every phone. */
export function ShelfPage() {
  const kit = useKit()
  if (kit.isPending) return <p className="soft p-6">Reading the shelf …</p>
  if (kit.isError)
    return (
      <div className="p-6">
        <ProblemLine error={kit.error} />
      </div>
    )
  const phones = piecesFor(kit.data, 'phone')
  const chargers = piecesFor(kit.data, 'charger')
  if (!phones.length || !chargers.length) return <EmptyShelf kit={kit.data} />
  return <Shelf kit={kit.data} />
}

function Shelf({ kit }: { kit: Kit[] }) {
  const navigate = useNavigate()
  const say = useSay()
  const [query, setQuery] = useSearchParams()
  const chosen = useMemo(() => choiceFrom(query, kit), [query, kit])
  const kitKey = kit.map((k) => [k.id, k.revision])
  const chain = useChain(chosen, kitKey)
  // Where no adapter is chosen, the best one stands in the chain.
  const choice = chosen && { ...chosen, adapter: chosen.best_adapter ? (chain.data?.adapter ?? null) : chosen.adapter }
  const rehearsal = useRehearse()
  const choose = (changes: Record<string, string | null>) => {
    setQuery(
      (old) => {
        const next = new URLSearchParams(old)
        for (const [name, value] of Object.entries(changes)) {
          if (value === null) next.delete(name)
          else next.set(name, value)
        }
        return next
      },
      { replace: true },
    )
  }
  const rehearse = () => {
    if (!choice || rehearsal.isPending) return
    const zone = Intl.DateTimeFormat().resolvedOptions().timeZone
    const body = { ...choice, best_adapter: false, label: '', seed: Math.floor(Math.random() * SEEDS), zone }
    rehearsal.mutate(body, {
      onSuccess: (run) => {
        say({ text: 'Rehearsed. The run is marked as simulated.' })
        void navigate(`/runs/${run.id}`)
      },
    })
  }
  useKeys({ r: rehearse, k: () => void navigate('/shelf/kit'), '/': () => void navigate('/shelf/kit?add') })
  const narrow = useNarrow()
  if (!choice) return null
  const Drawn = narrow ? ChannelDown : Channel
  const checked = chain.data
  return (
    <div className="px-6 pt-4 pb-6 max-sm:px-3">
      <div className="flex items-center gap-3 pb-2 max-sm:flex-wrap">
        <h1 className="text-2xl font-bold">Shelf</h1>
        <Link to="/shelf/kit" className="soft underline underline-offset-2">
          {counted(kit)}
        </Link>
        <Link to="/shelf/kit?add" className="btn btn-outline border-base-300 btn-sm ml-auto font-normal">
          Add kit
        </Link>
        <button className="btn btn-primary btn-sm" onClick={rehearse} disabled={rehearsal.isPending}>
          {rehearsal.isPending ? 'Rehearsing …' : 'Rehearse this chain'}
        </button>
      </div>
      {rehearsal.isError && <ProblemLine error={rehearsal.error} />}
      {chain.isError && <ProblemLine error={chain.error} />}
      {checked ? (
        <>
          <Drawn
            chain={checked}
            under={(link) => <Under link={link} kit={kit} choice={choice} choose={choose} label={labelOf(checked, link)} />}
          />
          <Missing checked={checked} kit={kit} choice={choice} choose={choose} />
          <div className="border-base-300 mt-2 grid grid-cols-2 gap-8 border-t pt-2 max-lg:grid-cols-1">
            <Says chain={checked} choose={choose} />
            <div>
              <ForecastChart forecast={checked.forecast} />
              <AroundFields choice={choice} kit={kit} choose={choose} />
            </div>
          </div>
        </>
      ) : (
        chain.isPending && <p className="soft py-10">Checking the chain …</p>
      )}
      <CoverageTable kit={kit} choice={choice} choose={choose} kitKey={kitKey} />
    </div>
  )
}

const labelOf = (chain: Shape['ChainShape'], link: string) => chain.links.find((l) => l.link === link)?.label ?? ''

const SLOT_OF: Partial<Record<string, Slot>> = {
  adapter: 'adapter',
  cable: 'cable',
  charger: 'charger',
  coupling: 'case',
  phone: 'phone',
}
const NONE_SAID: Partial<Record<Slot, string>> = { charger: 'no charger: wired', case: NO_CASE_SAID }

interface UnderProps {
  link: string
  kit: Kit[]
  choice: ChainChoice
  choose: Choose
  label: string
}

/** The piece that is chosen for a link, to be changed in place. */
function Under({ link, kit, choice, choose, label }: UnderProps) {
  const slot = SLOT_OF[link]
  if (!slot) return <p className="text-sm font-semibold">{label}</p>
  return <Pick slot={slot} kit={kit} choice={choice} choose={choose} />
}

function Pick({ slot, kit, choice, choose }: { slot: Slot; kit: Kit[]; choice: ChainChoice; choose: Choose }) {
  const chosen = kit.find((k) => k.id === choice[slot])
  const places = slot === 'charger' ? (chosen?.places ?? []) : []
  return (
    <span className="flex justify-center gap-1 max-sm:justify-start">
      <select
        className="select select-xs max-w-44 min-w-0 font-semibold max-sm:max-w-full max-sm:grow"
        aria-label={slot}
        title={chosen?.said}
        value={choice[slot] ?? NONE}
        onChange={(e) => {
          choose({ [slot]: e.target.value, ...(slot === 'charger' ? { place: null } : {}) })
        }}
      >
        {NONE_SAID[slot] && <option value={NONE}>{NONE_SAID[slot]}</option>}
        {piecesFor(kit, slot).filter((k) => slot === 'phone' || k.id !== choice.phone).map((k) => (
          <option key={k.id} value={k.id}>
            {k.label}
          </option>
        ))}
      </select>
      {places.length > 1 && (
        <select
          className="select select-xs w-16"
          aria-label="place on the charger"
          value={choice.place}
          onChange={(e) => {
            choose({ place: e.target.value })
          }}
        >
          {places.map((p) => (
            <option key={p}>{p}</option>
          ))}
        </select>
      )}
    </span>
  )
}

/** Choices that have no link in this chain: a charger for a wired one, an adapter for a pack. */
function Missing({ checked, kit, choice, choose }: { checked: Shape['ChainShape']; kit: Kit[]; choice: ChainChoice; choose: Choose }) {
  const shown = new Set(checked.links.map((l) => SLOT_OF[l.link]))
  const source = kit.find((k) => k.id === choice.charger)?.kind
  const pack = source === 'pack' || source === 'phone'
  if (shown.has('charger') && !pack) return null
  return (
    <p className="soft mt-1 flex items-center gap-2 text-sm">
      {pack ? `The ${source} feeds its own coil: no adapter, no cable.` : 'Wired: the usual baseline.'}
      {!pack && <Pick slot="charger" kit={kit} choice={choice} choose={choose} />}
    </p>
  )
}

/** What the chain means, and what would change it: first from the shelf. */
function Says({ chain, choose }: { chain: Shape['ChainShape']; choose: Choose }) {
  return (
    <div className="text-sm">
      <p className="text-base leading-snug">
        <b>{chain.headline}</b> {chain.because}
      </p>
      <ul className="mt-1 space-y-1">
        {chain.swaps.map((s) => (
          <li key={s.link + s.piece}>
            {s.said}{' '}
            <button
              className="cursor-pointer font-semibold underline underline-offset-2"
              onClick={() => {
                choose({ [s.link]: s.piece, ...(s.link === 'charger' ? { place: s.place || null } : {}) })
              }}
            >
              Use it
            </button>
          </li>
        ))}
        {chain.advice.map((a) => (
          <li key={a} className="soft">
            {a}
          </li>
        ))}
      </ul>
      <p className="soft mt-1">
        {chain.negotiated && `Negotiated: ${chain.negotiated}${chain.inferred ? ', inferred until seen' : ''} · `}
        at the meter {chain.meter_w.low.toFixed(1)} to {chain.meter_w.high.toFixed(1)} W ·{' '}
        <Origins chain={chain} />
      </p>
    </div>
  )
}

/** Where the figures of the forecast come from. */
function Origins({ chain }: { chain: Shape['ChainShape'] }) {
  return (
    <>
      <button className="cursor-pointer underline underline-offset-2" popoverTarget="rests-on">
        what this rests on
      </button>
      <div
        id="rests-on"
        popover="auto"
        className="bg-base-100 text-base-content border-base-content m-auto border p-5 text-sm shadow-lg"
      >
        <h2 className="mb-2 text-lg font-bold">What this forecast rests on</h2>
        <table>
          <tbody>
            {chain.forecast.origins.map((g) => (
              <tr key={g.what}>
                <th scope="row" className="py-0.5 pr-5 text-left font-normal">
                  {g.what}
                </th>
                <td className="pr-5">{g.value}</td>
                <td className="soft">{g.origin}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <p className="soft mt-3 max-w-md">
          The range runs from the most that may arrive to the least, each widened by the spread of one run.
        </p>
      </div>
    </>
  )
}

function EmptyShelf({ kit }: { kit: Kit[] }) {
  const navigate = useNavigate()
  useKeys({ k: () => void navigate('/shelf/kit'), '/': () => void navigate('/shelf/kit?add') })
  return (
    <div className="px-6 pt-4">
      <h1 className="text-2xl font-bold">Shelf</h1>
      <div className="border-base-300 mt-6 max-w-xl rounded border border-dashed p-6">
        <p className="text-lg font-semibold">
          {kit.length ? 'A phone and a charger are needed to make a chain.' : 'Type what you own, one line each.'}
        </p>
        <p className="soft mt-1">
          With a phone, a charger and an adapter you see where the chain narrows and how long it will take, before the
          first test. Press <kbd className="reading">/</kbd> and type, for example
        </p>
        <p className="reading mt-2">phone Ostrel Mini 3180 mAh Qi2 12W small</p>
        <p className="reading">charger Cairn disc 15 Qi2 15W 45 EUR</p>
        <Link to="/shelf/kit?add" className="btn btn-primary btn-sm mt-3">
          Add kit
        </Link>
      </div>
    </div>
  )
}
