import { v4 as newId } from 'uuid'
import { queries } from '../../api/queries'
import { useState } from 'react'
import { MOVED_ABOUT } from '../../api/rules'
import { useMutation, useQuery } from '@tanstack/react-query'
import { Link, useSearchParams } from 'react-router'
import { api, taken, type Shape } from '../../api/client'
import { NO_CASE } from '../../api/rules'
import { benchApi } from '../../api/bench'
import { outbox } from '../../api/outbox'
import { useKit } from '../../api/useKit'
import { useSettings } from '../../reader/settings'
import { useKeys } from '../../ui/useKeys'
import { ProblemLine } from '../../ui/Problem'
import { ChainFields } from './ChainFields'
import { Choice } from './Choice'
import { OnTheWay } from './OnTheWay'
import { SpotTable } from '../../shared/SpotTable'

const MINUTES = ['1', '2', '3', '5']
const STANDINS = ['60', '120']
const LIVE_MS = 500

/** Spot checks in a row: many chains, a few minutes each, as one quick table. */
export function SpotPage() {
  const [search, setSearch] = useSearchParams()
  const survey = search.get('survey') ?? ''
  const kit = useKit()
  const pieces = kit.data ?? []
  const meters = pieces.filter((k) => k.kind === 'meter')
  const [factors, setFactors] = useState<Record<string, string>>({ case: NO_CASE })
  const [moved, setMoved] = useState(false)
  const [minutes, setMinutes] = useState('3')
  const [meter, setMeter] = useState<string | null>(null)
  const [practice, setPractice] = useState('')
  const usedMeter = meter ?? meters.find((k) => k.fields.address)?.label ?? ''
  const spot = useQuery(queries.spot(survey, LIVE_MS))
  const rows = spot.data?.rows ?? []
  const open = rows.find((r) => r.state !== 'closed')
  const begin = useMutation({
    mutationFn: async () => {
      const id = survey || newId()
      if (!survey) setSearch({ survey: id }, { replace: true })
      return taken(
        await api.POST('/api/spot-checks', {
          body: {
            factors: { ...factors, ...(moved ? { alignment: MOVED_ABOUT } : {}) } as never,
            card: 'Spot check',
            meter: practice ? '' : usedMeter,
            probe: '',
            socket: '',
            minutes: Number(minutes),
            practice: practice ? Number(practice) : null,
            kind: 'charge',
            pack: '',
            method: '',
            reports: false,
            survey: id,
            zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
          },
        }),
      )
    },
    onSuccess: () => {
      setMoved(false)
      void spot.refetch()
    },
  })
  const place = useMutation({ mutationFn: (id: string) => benchApi.place(id), onSuccess: () => void spot.refetch() })
  const drop = useMutation({
    mutationFn: (id: string) => benchApi.end(id, { outcome: 'void', reason: 'stopped' }),
    onSuccess: () => void spot.refetch(),
  })
  useKeys({
    d: () => {
      if (open?.state === 'setting') place.mutate(open.lane)
    },
  })
  const ready = Boolean(factors.phone && factors.charger) && !open
  return (
    <div className="flex min-h-full flex-col">
      <div className="max-w-6xl grow px-6 pt-4 pb-8">
        <div className="flex flex-wrap items-baseline gap-x-4">
          <h1 className="text-xl font-bold">Spot check</h1>
          <Link to="/bench" className="soft text-sm underline underline-offset-2">
            back to the bench
          </Link>
          <Link to="/runs/spot" className="soft text-sm underline underline-offset-2">
            all spot checks
          </Link>
          <span className="soft text-sm">ramp and settled watts of many chains in a row, a few minutes each; nothing about charging time</span>
        </div>
        <form
          className="mt-3"
          onSubmit={(e) => {
            e.preventDefault()
            if (ready) begin.mutate()
          }}
        >
          <div className="grid grid-cols-4 gap-x-4 gap-y-2 max-lg:grid-cols-2">
            <ChainFields pieces={pieces} factors={factors} onFactors={setFactors} autoFocus />
            <Choice text="minutes" value={minutes} options={MINUTES} onChoose={setMinutes} />
            <Choice text="meter" value={practice ? '' : usedMeter} options={meters.map((k) => k.label)} none="none: watts by hand" onChoose={setMeter} disabled={practice !== ''} />
            <Choice text="or practise with stand-ins" value={practice} options={STANDINS} said={{ '60': '60 × as fast', '120': '120 × as fast' }} none="no" onChoose={setPractice} />
            <label className="flex items-center gap-2 self-end pb-1.5 text-sm" title="the phone was moved on the pad until the watts were highest: the row is marked">
              <input type="checkbox" className="checkbox checkbox-sm" checked={moved} onChange={(e) => { setMoved(e.target.checked) }} />
              {MOVED_ABOUT}
            </label>
            <div className="self-end">
              <button className={`btn btn-sm w-full ${ready ? 'btn-primary' : ''}`} disabled={!ready || begin.isPending}>
                Check this chain
              </button>
            </div>
          </div>
        </form>
        {(begin.error ?? place.error ?? drop.error ?? spot.error) && <ProblemLine error={begin.error ?? place.error ?? drop.error ?? spot.error} />}
        {open && (
          <OpenCheck
            key={open.lane}
            row={open}
            onPlace={() => {
              place.mutate(open.lane)
            }}
            onStop={() => {
              drop.mutate(open.lane)
            }}
          />
        )}
        {rows.length > 0 ? (
          <div className="mt-4">
            <SpotTable rows={rows} />
          </div>
        ) : (
          <p className="soft mt-6 max-w-xl text-sm">
            Choose the phone once, then one charger or adapter after another. Take the phone off in between. It warms up and fills as you go, so check the first chain again at the end.
          </p>
        )}
        {spot.data?.asked.map((text) => (
          <p key={text} className="border-base-content bg-accent mt-3 border-l-4 px-3 py-1 text-sm">
            {text}
          </p>
        ))}
        {spot.data?.drift.map((text) => (
          <p key={text} className="mt-3 text-sm">
            {text}
          </p>
        ))}
      </div>
      <OnTheWay
        box={outbox}
        onEdit={() => {
          // What is dropped here is typed again in its field.
        }}
      />
    </div>
  )
}

interface OpenProps {
  row: Shape['SpotRow']
  onPlace: () => void
  onStop: () => void
}

/** The check that is being made: what to do now, and what is typed. */
function OpenCheck({ row, onPlace, onStop }: OpenProps) {
  const setting = row.state === 'setting'
  const nothing = !setting && row.by_hand && row.settled_w === null
  return (
    <div role="status" className="border-base-content bg-base-200 mt-4 border px-4 py-2">
      <div className="flex items-center gap-4">
        <span>
          <b>
            {row.phone} · {row.label}
          </b>
          {setting
            ? row.by_hand
              ? ': adapter and charger in, then the phone on it.'
              : ': adapter and charger in; when the no-load watts have settled, place the phone. The meter sees it.'
            : nothing
              ? ': type what the meter shows; once after 45 s is enough, more show the ramp.'
              : row.by_hand
                ? ': it ends by itself once its minutes are over and you have typed the last figure.'
                : ': it ends by itself.'}{' '}
          {row.settled_w && <span className="reading">{row.settled_w.value.toFixed(1)} W so far</span>}
        </span>
        {setting && (
          <button className="btn btn-primary btn-sm ml-auto" onClick={onPlace}>
            The phone is placed
          </button>
        )}
        <button className={`btn btn-ghost btn-sm font-normal ${setting ? '' : 'ml-auto'}`} onClick={onStop}>
          Stop
        </button>
      </div>
      <div className="mt-1 flex flex-wrap gap-x-6 gap-y-1">
        {row.by_hand && <Typed row={row} name="watts" unit="W" suffix="w" strong={!setting} />}
        <Typed row={row} name="battery" unit="%" suffix="" />
        <TypedTemperature row={row} />
      </div>
    </div>
  )
}

function TypedTemperature({ row }: { row: Shape['SpotRow'] }) {
  const { degrees } = useSettings()
  return <Typed row={row} name="phone's back" unit={`°${degrees}`} suffix={degrees.toLowerCase()} />
}

interface TypedProps {
  row: Shape['SpotRow']
  name: string
  unit: string
  suffix: string
  strong?: boolean
}

/** A figure that is typed for the open check; Enter logs it, and it may be typed again as often as wanted. */
function Typed({ row, name, unit, suffix, strong = false }: TypedProps) {
  const [typed, setTyped] = useState('')
  const fits = /^\d{1,3}([.,]\d{1,3})?$/.test(typed.trim())
  return (
    <form
      className="flex items-center gap-2 text-sm"
      onSubmit={(e) => {
        e.preventDefault()
        if (!fits) return
        outbox.log(`${row.name.toLowerCase()} ${typed.trim()}${suffix}`, false, suffix === 'f')
        setTyped('')
      }}
    >
      <span className="soft max-sm:w-28">{name}</span>
      <span className="input input-sm w-24">
        <input
          className="reading min-w-0 grow"
          inputMode="decimal"
          aria-label={`${name}, ${unit}`}
          value={typed}
          onChange={(e) => {
            setTyped(e.target.value)
          }}
        />
        <span className="soft">{unit}</span>
      </span>
      <button className={`btn btn-sm ${strong ? 'btn-primary' : 'btn-outline font-normal'}`} disabled={!fits}>
        Log
      </button>
    </form>
  )
}
