import { queries } from '../../api/queries'
import { useState } from 'react'
import { useMutation, useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import { api, taken } from '../../api/client'
import { useKit } from '../../api/useKit'
import { ProblemLine } from '../../ui/Problem'
import { useSay } from '../../ui/Undo'
import { Choice } from './Choice'
import { Wide } from '../../ui/Wide'

const LOAD = 'a wired load of known watts'
const LEAST = 3

/** Meter checks: two meters in line, or a load of known watts; what comes of it counts in later uncertainties. */
export function ChecksPage() {
  const say = useSay()
  const kit = useKit()
  const meters = (kit.data ?? []).filter((k) => k.kind === 'meter')
  const [meter, setMeter] = useState('')
  const [other, setOther] = useState(LOAD)
  const [known, setKnown] = useState('10')
  const [sure, setSure] = useState('1')
  const [pairs, setPairs] = useState<[string, string][]>([['', ''], ['', ''], ['', '']])
  const list = useQuery(queries.meterChecks())
  const load = other === LOAD
  const asked = (label: string) => Boolean(meters.find((m) => m.label === label)?.fields.address)
  const canRead = asked(meter) && (load || asked(other))
  const number = (text: string) => Number(text.replace(',', '.'))
  const filled = pairs.filter(([a, b]) => a.trim() && (load || b.trim()))
  const read = useMutation({
    mutationFn: async () => taken(await api.POST('/api/meter-checks/read', { body: { meter, other: load ? '' : other } })),
    onSuccess: (pair) => {
      setPairs([...filled, [String(pair.mine_w), pair.other_w === null ? '' : String(pair.other_w)], ['', '']])
    },
  })
  const remove = useMutation({
    mutationFn: async (id: string) => taken(await api.DELETE('/api/meter-checks/{check_id}', { params: { path: { check_id: id } } })),
    onSuccess: (check) => {
      void list.refetch()
      say({
        text: 'The check is deleted.',
        undo: async () => {
          await api.POST('/api/meter-checks/{check_id}/restored', { params: { path: { check_id: check.id } } })
          await list.refetch()
        },
      })
    },
  })
  const keep = useMutation({
    mutationFn: async () =>
      taken(
        await api.POST('/api/meter-checks', {
          body: {
            meter,
            other: load ? '' : other,
            known_w: load ? number(known) : null,
            known_percent: number(sure),
            pairs: filled.map(([a, b]): [number, number] => [number(a), load ? 0 : number(b)]),
          },
        }),
      ),
    onSuccess: (check) => {
      setPairs([['', ''], ['', ''], ['', '']])
      void list.refetch()
      say({ text: `${check.meter}: ${check.said}.` })
    },
  })
  const type = (row: number, column: 0 | 1, text: string) => {
    const next = pairs.map((p, i): [string, string] => (i === row ? (column === 0 ? [text, p[1]] : [p[0], text]) : p))
    if (row === pairs.length - 1 && text) next.push(['', ''])
    setPairs(next)
  }
  return (
    <div className="max-w-4xl px-6 pt-4 pb-8">
      <div className="flex items-baseline gap-4">
        <h1 className="text-xl font-bold">Meter check</h1>
        <Link to="/bench" className="soft text-sm underline underline-offset-2">
          back to the bench
        </Link>
        <span className="soft text-sm">a meter's error goes into the uncertainty of later runs; its readings are not changed</span>
      </div>
      <form
        className="mt-3"
        onSubmit={(e) => {
          e.preventDefault()
          keep.mutate()
        }}
      >
        <div className="flex flex-wrap items-end gap-x-4 gap-y-2">
          <Choice text="meter that is checked" value={meter} options={meters.map((m) => m.label)} none="choose one" onChoose={setMeter} autoFocus />
          <Choice text="compared with" value={other} options={[LOAD, ...meters.map((m) => m.label).filter((l) => l !== meter)]} onChoose={setOther} />
          {load && (
            <>
              <label className="block text-sm">
                <span className="soft block text-xs">its watts</span>
                <input className="input input-sm reading w-24" aria-label="watts of the load" inputMode="decimal" value={known} onChange={(e) => { setKnown(e.target.value) }} />
              </label>
              <label className="block text-sm">
                <span className="soft block text-xs">known to ± %</span>
                <input className="input input-sm reading w-20" aria-label="how well it is known, %" inputMode="decimal" value={sure} onChange={(e) => { setSure(e.target.value) }} />
              </label>
            </>
          )}
        </div>
        <p className="soft mt-3 text-sm">
          {load ? 'Draw the load by cable and read the meter several times.' : 'Put both meters in line, one after the other, and read them at the same moments.'} At least three readings, over 2 W.
        </p>
        <Wide least={30} className="mt-1 text-sm" aria-label="pairs">
          <thead>
            <tr className="soft text-left text-xs">
              <th className="pr-4 font-normal">{meter || 'this meter'}, W</th>
              {!load && <th className="font-normal">{other}, W</th>}
            </tr>
          </thead>
          <tbody>
            {pairs.map((p, i) => (
              <tr key={i}>
                <td className="pr-4">
                  <input className="input input-sm reading w-28" inputMode="decimal" aria-label={`reading ${String(i + 1)} of the meter, W`} value={p[0]} onChange={(e) => { type(i, 0, e.target.value) }} />
                </td>
                {!load && (
                  <td>
                    <input className="input input-sm reading w-28" inputMode="decimal" aria-label={`reading ${String(i + 1)} of the other, W`} value={p[1]} onChange={(e) => { type(i, 1, e.target.value) }} />
                  </td>
                )}
              </tr>
            ))}
          </tbody>
        </Wide>
        <div className="mt-3 flex items-center gap-3">
          <button className="btn btn-primary btn-sm" disabled={!meter || filled.length < LEAST || keep.isPending}>
            Keep the check
          </button>
          {canRead && (
            <button type="button" className="btn btn-outline border-base-300 btn-sm font-normal" disabled={read.isPending} onClick={() => { read.mutate() }}>
              Read {load ? 'it' : 'both'} now
            </button>
          )}
          <span className="soft text-sm">{!meter ? 'choose the meter first' : filled.length < LEAST ? `${String(LEAST - filled.length)} more to read` : ''}</span>
        </div>
        {(keep.error ?? read.error ?? list.error) && <ProblemLine error={keep.error ?? read.error ?? list.error} />}
      </form>
      {(list.data?.length ?? 0) > 0 && (
        <Wide least={30} className="mt-6 w-full text-sm" aria-label="checks">
          <thead>
            <tr className="soft text-left text-xs">
              <th className="font-normal">meter</th>
              <th className="font-normal">checked</th>
              <th className="font-normal">against</th>
              <th className="font-normal">it</th>
              <th className="font-normal">counts as</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {list.data?.map((c) => (
              <tr key={c.id} className="border-base-300 border-t">
                <td className="py-1 font-semibold">{c.meter}</td>
                <td className="reading">{c.at.slice(0, 10)}</td>
                <td>{c.against}</td>
                <td>{c.said}</td>
                <td className="reading">± {c.gain_percent.toFixed(2)} %</td>
                <td className="text-right">
                  <button className="btn btn-ghost btn-xs font-normal" aria-label={`delete the check of ${c.meter}`} onClick={() => { remove.mutate(c.id) }}>
                    delete
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </Wide>
      )}
    </div>
  )
}
