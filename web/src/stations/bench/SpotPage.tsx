import { useState } from 'react'
import { useMutation, useQuery } from '@tanstack/react-query'
import { Link, useSearchParams } from 'react-router'
import { api, taken } from '../../api/client'
import { benchApi } from '../../api/bench'
import { useKit } from '../../api/useKit'
import { useKeys } from '../../ui/useKeys'
import { ProblemLine } from '../../ui/Problem'
import { Choice } from './SetUpLane'

const MINUTES = ['1', '2', '3', '5']
const STANDINS = ['60', '120']
const LIVE_MS = 500

/** Spot checks in a row: many chains, a few minutes each, as one quick table. */
export function SpotPage() {
  const [search, setSearch] = useSearchParams()
  const survey = search.get('survey') ?? ''
  const kit = useKit()
  const pieces = kit.data ?? []
  const labels = (kind: string) => pieces.filter((k) => k.kind === kind).map((k) => k.label)
  const chargers = pieces.filter((k) => k.kind === 'charger').map((k) => k.label)
  const [factors, setFactors] = useState<Record<string, string>>({ case: 'none' })
  const [minutes, setMinutes] = useState('3')
  const [meter, setMeter] = useState<string | null>(null)
  const [practice, setPractice] = useState('')
  const usedMeter = meter ?? pieces.find((k) => k.kind === 'meter' && k.fields.address)?.label ?? ''
  const found = useQuery({
    queryKey: ['spot', survey],
    enabled: survey !== '',
    refetchInterval: LIVE_MS,
    queryFn: async () => taken(await api.GET('/api/spot-checks/{survey}', { params: { path: { survey } } })),
  })
  const rows = found.data?.rows ?? []
  const open = rows.find((r) => r.state !== 'closed')
  const begin = useMutation({
    mutationFn: async () => {
      const id = survey || crypto.randomUUID()
      if (!survey) setSearch({ survey: id }, { replace: true })
      return taken(
        await api.POST('/api/spot-checks', {
          body: {
            factors: factors as never,
            card: 'Spot check',
            meter: practice ? '' : usedMeter,
            probe: '',
            minutes: Number(minutes),
            practice: practice ? Number(practice) : null,
            reports: false,
            survey: id,
            zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
          },
        }),
      )
    },
    onSuccess: () => void found.refetch(),
  })
  const place = useMutation({ mutationFn: (id: string) => benchApi.place(id) })
  const drop = useMutation({
    mutationFn: (id: string) => benchApi.end(id, { outcome: 'void', reason: 'broken off' }),
    onSuccess: () => void found.refetch(),
  })
  useKeys({
    d: () => {
      if (open?.state === 'setting') place.mutate(open.lane)
    },
  })
  const state = (name: string) => (text: string) => {
    setFactors({ ...factors, [name]: text })
  }
  const most = Math.max(10, ...rows.map((r) => r.settled_w ?? 0))
  const ready = Boolean(factors.phone && factors.charger) && !open
  return (
    <div className="max-w-5xl px-6 pt-4 pb-8">
      <div className="flex items-baseline gap-4">
        <h1 className="text-xl font-bold">Spot check</h1>
        <Link to="/bench" className="soft text-sm underline underline-offset-2">
          back to the bench
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
          <Choice text="phone" value={factors.phone} options={labels('phone')} onChoose={state('phone')} autoFocus />
          <Choice text="charger" value={factors.charger} options={chargers} onChoose={state('charger')} />
          <Choice text="adapter" value={factors.adapter} options={labels('adapter')} onChoose={state('adapter')} />
          <Choice text="case" value={factors.case} options={['none', ...labels('case')]} onChoose={state('case')} />
          <Choice text="minutes" value={minutes} options={MINUTES} onChoose={setMinutes} />
          <Choice text="meter" value={practice ? '' : usedMeter} options={labels('meter')} none="none: watts pushed or by hand" onChoose={setMeter} disabled={practice !== ''} />
          <Choice text="or practise with stand-ins" value={practice} options={STANDINS} said={{ '60': '60 × as fast', '120': '120 × as fast' }} none="no" onChoose={setPractice} />
          <div className="self-end">
            <button className={`btn btn-sm w-full ${ready ? 'btn-primary' : ''}`} disabled={!ready || begin.isPending}>
              Check this chain
            </button>
          </div>
        </div>
      </form>
      {(begin.error ?? place.error ?? drop.error ?? found.error) && <ProblemLine error={begin.error ?? place.error ?? drop.error ?? found.error} />}
      {open && (
        <div role="status" className="border-base-content bg-base-200 mt-4 flex items-center gap-4 border px-4 py-2">
          {open.state === 'setting' ? (
            <>
              <span>
                <b>{open.label}</b>: adapter and charger in; when the no-load watts have settled, place the phone. The meter sees it.
              </span>
              <button className="btn btn-primary btn-sm ml-auto" onClick={() => { place.mutate(open.lane) }}>
                The phone is placed
              </button>
            </>
          ) : (
            <span>
              <b>{open.label}</b> is measured; it ends by itself. {open.settled_w !== null && <span className="reading">{open.settled_w.toFixed(1)} W so far</span>}
            </span>
          )}
          <button className={`btn btn-ghost btn-sm font-normal ${open.state === 'setting' ? '' : 'ml-auto'}`} onClick={() => { drop.mutate(open.lane) }}>
            Break off
          </button>
        </div>
      )}
      {rows.length > 0 ? (
        <table className="mt-4 w-full text-sm" aria-label="spot checks">
          <thead>
            <tr className="soft text-left text-xs">
              <th className="w-64 font-normal">chain</th>
              <th className="font-normal">settled at the meter</th>
              <th className="w-24 text-right font-normal">ramp</th>
              <th className="w-20 text-right font-normal">volts</th>
              <th className="w-44 pl-6 font-normal">behaves</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((r) => (
              <tr key={r.lane} className={`border-base-300 border-t ${r.outcome === 'void' ? 'line-through opacity-60' : ''}`}>
                <td className="py-1.5">{r.run ? <Link className="underline underline-offset-2" to={`/runs/${r.run}`}>{r.label}</Link> : r.label}</td>
                <td>
                  {r.settled_w === null ? (
                    <span className="soft">{r.state === 'setting' ? 'waits for the phone' : r.state === 'running' ? 'measuring …' : 'too short'}</span>
                  ) : (
                    <span className="flex items-center gap-2">
                      <span className="border-base-content bg-base-200 h-4 border" style={{ width: `${String((r.settled_w / most) * 70)}%` }} />
                      <span className="reading">{r.settled_w.toFixed(1)} W</span>
                      {!r.steady && <span className="soft text-xs">not yet steady</span>}
                    </span>
                  )}
                </td>
                <td className="reading text-right">{r.ramp_s === null ? '' : `${r.ramp_s.toFixed(0)} s`}</td>
                <td className="reading text-right">{r.volts === null ? '' : `${r.volts.toFixed(1)} V`}</td>
                <td className="pl-6">{r.seems}</td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : (
        <p className="soft mt-6 max-w-xl text-sm">
          Choose the phone once, then one charger or adapter after the other. Take the phone off between them; it warms and fills meanwhile, so the first chain comes again at the end.
        </p>
      )}
      {found.data?.asked && <p className="border-base-content bg-accent mt-3 border-l-4 px-3 py-1 text-sm">{found.data.asked}</p>}
      {found.data?.drift && <p className="mt-3 text-sm">{found.data.drift}</p>}
    </div>
  )
}
