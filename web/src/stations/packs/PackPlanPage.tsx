import { useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { api, taken, type Shape } from '../../api/client'
import { queries } from '../../api/queries'
import { useChanged } from '../../api/useChanged'
import { ProblemLine } from '../../ui/Problem'
import { forField, inZone, momentAt } from '../../ui/times'
import { useSay } from '../../ui/Undo'
import { PacksTabs } from './PacksTabs'
import { Wide } from '../../ui/Wide'

const zone = Intl.DateTimeFormat().resolvedOptions().timeZone || 'UTC'
const plain = 'btn btn-outline border-base-300 btn-sm font-normal'

/** The plan of pack tests: each pack full before, rested after, somebody there; what was made of it since. */
export function PackPlanPage() {
  const plan = useQuery(queries.packPlan())
  const [anew, setAnew] = useState(false)
  const changed = useChanged('pack')
  const say = useSay()
  const remove = useMutation({
    mutationFn: async () => taken(await api.DELETE('/api/packs/plan')),
    onSuccess: async () => {
      await changed()
      say({
        text: 'The plan is deleted; the tests that were made stay.',
        undo: async () => {
          await api.POST('/api/packs/plan/restored')
          await changed()
        },
      })
    },
  })
  const shown = plan.data && !anew ? plan.data : null
  return (
    <div className="px-6 pt-4 pb-8">
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-2">
        <PacksTabs shown="/packs/plan" />
        {shown && (
          <span className="ml-auto flex gap-2 max-sm:ml-0 max-sm:flex-wrap">
            <a className={plain} href="/api/exports/pack-plan.ics" download>
              Calendar
            </a>
            <button className={plain} onClick={() => { setAnew(true) }}>
              Make another plan
            </button>
            <button className={plain} onClick={() => { remove.mutate() }}>
              Delete this plan
            </button>
          </span>
        )}
      </div>
      {(plan.error ?? remove.error) && <ProblemLine error={plan.error ?? remove.error} />}
      {shown && <Planned plan={shown} />}
      {plan.isSuccess && !shown && <PlanForm onMade={() => { setAnew(false) }} onClose={plan.data ? () => { setAnew(false) } : undefined} />}
    </div>
  )
}

function Planned({ plan }: { plan: NonNullable<Shape['PackPlanShape']> }) {
  const done = plan.tests.filter((t) => t.done).length
  const next = plan.tests.find((t) => !t.done)
  return (
    <>
      <p className="mt-2 text-sm">
        {done} of {plan.tests.length} made, over on <b>{momentAt(plan.over_at, plan.zone)}</b>{' '}
        <span className="soft">times in {plan.zone}; a test counts as made once one of its kind stands among the pack's tests</span>
      </p>
      <div className="mt-3 overflow-x-auto">
        <Wide least={30} className="text-sm" aria-label="plan of pack tests">
          <thead>
            <tr className="soft text-left text-xs">
              {['pack', 'method', 'plug it in', 'begin', 'end', '', ''].map((name, i) => (
                <th key={i} className="pr-6 font-normal">
                  {name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {plan.tests.map((t) => (
              <tr key={`${t.pack} ${t.method} ${t.start}`} className={`border-base-300 border-t ${t.done ? 'soft' : ''}`}>
                <th scope="row" className="py-2 pr-6 text-left font-semibold whitespace-nowrap">
                  {t.pack}
                </th>
                <td className="pr-6">{t.method}</td>
                <td className="pr-6 tabular-nums whitespace-nowrap">{t.fill_at ? momentAt(t.fill_at, plan.zone) : '–'}</td>
                <td className="pr-6 tabular-nums whitespace-nowrap">{momentAt(t.start, plan.zone)}</td>
                <td className="pr-6 tabular-nums whitespace-nowrap">{momentAt(t.end, plan.zone)}</td>
                <td className="pr-6">{t.done ? 'made' : t.late ? <b>late</b> : t.attended ? 'stay by it: never tested' : ''}</td>
                <td>
                  {!t.done && (t.kind === 'load' || t.kind === 'recharge') && (
                    <Link
                      className={t === next ? 'btn btn-primary btn-sm' : plain}
                      to={`/bench/new?kind=${t.kind}&pack=${encodeURIComponent(t.pack)}&method=${encodeURIComponent(t.method)}`}
                    >
                      Set up its lane
                    </Link>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </Wide>
      </div>
    </>
  )
}

function PlanForm({ onMade, onClose }: { onMade: () => void; onClose: (() => void) | undefined }) {
  const packs = useQuery(queries.packs()).data?.packs ?? []
  const methods = (useQuery(queries.packMethods()).data ?? []).filter((m) => m.timed)
  const changed = useChanged('pack')
  const [ticked, setTicked] = useState<string[]>([])
  const [start, setStart] = useState(() => forField(new Date(), zone))
  const [hours, setHours] = useState({ begins: '08:00', ends: '22:00' })
  const [meters, setMeters] = useState('1')
  const make = useMutation({
    mutationFn: async () =>
      taken(
        await api.POST('/api/packs/plan', {
          body: {
            wanted: ticked.map((key) => {
              const [pack = '', method = ''] = key.split('\n')
              return { pack, method }
            }),
            start: inZone(start, zone),
            zone,
            attended: [{ ...hours, days: ['mon', 'tue', 'wed', 'thu', 'fri', 'sat', 'sun'] }],
            meters: Number(meters) || 1,
          },
        }),
      ),
    onSuccess: async () => {
      await changed()
      onMade()
    },
  })
  if (packs.length === 0)
    return (
      <p className="mt-3 max-w-prose">
        No pack stands on the{' '}
        <Link to="/shelf/kit" className="underline underline-offset-2">
          shelf
        </Link>{' '}
        yet.
      </p>
    )
  return (
    <form
      className="mt-3"
      aria-label="plan of pack tests"
      onSubmit={(event) => {
        event.preventDefault()
        make.mutate()
      }}
    >
      <p className="soft max-w-prose text-sm">Tick what is to be tested. Each pack is full before and rests after. A pack that was never tested gets its time only while somebody is there.</p>
      <div className="mt-2 overflow-x-auto">
        <Wide least={30} className="text-sm" aria-label="packs and methods">
          <thead>
            <tr className="soft text-left text-xs">
              <th className="pr-6 font-normal">pack</th>
              {methods.map((m) => (
                <th key={m.name} scope="col" className="max-w-28 pr-4 align-bottom font-normal" title={m.good_for}>
                  {m.name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {packs.map((p) => (
              <tr key={p.label} className="border-base-300 border-t">
                <th scope="row" className="py-1.5 pr-6 text-left font-semibold whitespace-nowrap">
                  {p.label}
                </th>
                {methods.map((m) => {
                  const key = `${p.label}\n${m.name}`
                  return (
                    <td key={m.name}>
                      <label className="grid place-items-center">
                        <input
                          type="checkbox"
                          className="checkbox checkbox-sm"
                          aria-label={`${p.label}: ${m.name}`}
                          checked={ticked.includes(key)}
                          onChange={() => {
                            setTicked(ticked.includes(key) ? ticked.filter((k) => k !== key) : [...ticked, key])
                          }}
                        />
                      </label>
                    </td>
                  )
                })}
              </tr>
            ))}
          </tbody>
        </Wide>
      </div>
      <div className="mt-3 flex flex-wrap items-end gap-x-4 gap-y-2 text-sm">
        <label className="block">
          <span className="soft block text-xs">from, in {zone}</span>
          <input type="datetime-local" className="input input-sm w-52" aria-label="from" value={start} onChange={(e) => { setStart(e.target.value) }} />
        </label>
        {(['begins', 'ends'] as const).map((end) => (
          <label key={end} className="block">
            <span className="soft block text-xs">{end === 'begins' ? 'somebody is there from' : 'until'}</span>
            <input
              type="time"
              className="input input-sm w-28"
              aria-label={end === 'begins' ? 'somebody is there from' : 'somebody is there until'}
              value={hours[end]}
              onChange={(e) => {
                setHours({ ...hours, [end]: e.target.value })
              }}
            />
          </label>
        ))}
        <label className="block">
          <span className="soft block text-xs">meters</span>
          <input className="input input-sm reading w-16" aria-label="meters" value={meters} onChange={(e) => { setMeters(e.target.value) }} />
        </label>
        <button className="btn btn-primary btn-sm" disabled={ticked.length === 0 || make.isPending}>
          {make.isPending ? 'Planning …' : 'Make the plan'}
        </button>
        {onClose && (
          <button type="button" className="btn btn-ghost btn-sm font-normal" onClick={onClose}>
            Cancel
          </button>
        )}
        {ticked.length === 0 && <span className="soft">tick one at least</span>}
      </div>
      {make.error && <ProblemLine error={make.error} />}
    </form>
  )
}
