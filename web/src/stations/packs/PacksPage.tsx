import { useMutation, useQuery } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { Link } from 'react-router'
import { api, taken, type Shape } from '../../api/client'
import { queries } from '../../api/queries'
import { sendFile } from '../../api/sendFile'
import { useChanged } from '../../api/useChanged'
import { ProblemLine } from '../../ui/Problem'
import { Strong } from '../../ui/text'
import { useSay } from '../../ui/Undo'
import { ChargeForm } from './ChargeForm'
import { PackTests } from './PackTests'
import { Walk } from './Walk'

type Row = Shape['PackRow']

const counted = (count: number, thing: string) => `${String(count)} ${thing}${count === 1 ? '' : 's'}`
const money = (amount: number, currency: string) => `${amount.toFixed(2)} ${currency}`

function bestCharges(row: Row): Row['charges'][number] | undefined {
  return row.charges.find((c) => c.way === 'coil') ?? row.charges[0]
}

/** Every pack of the shelf: what was promised, what came, and what that costs. */
export function PacksPage() {
  const say = useSay()
  const changed = useChanged('pack')
  const file = useRef<HTMLInputElement>(null)
  const list = useQuery(queries.packs())
  const rows = list.data ?? []
  const [chosen, setChosen] = useState('')
  const [test, setTest] = useState<string | null>(null)
  const [form, setForm] = useState(false)
  const [over, setOver] = useState(false)
  const pack = rows.find((r) => r.label === chosen) ?? rows[0]
  const load = useMutation({
    mutationFn: async (sent: File) => {
      const upload = await sendFile(sent, () => undefined)
      return taken(await api.POST('/api/packs/{label}/loads', { params: { path: { label: pack?.label ?? '' } }, body: { upload: upload.id } }))
    },
    onSuccess: async (kept) => {
      await changed()
      setTest(kept.id)
      say({ text: `A load test of ${kept.pack} is kept.` })
    },
  })
  const choose = (label: string) => {
    setChosen(label)
    setTest(null)
    setForm(false)
  }
  const tests = rows.flatMap((r) => r.tests)
  if (list.data && rows.length === 0)
    return (
      <div className="px-6 pt-4">
        <h1 className="text-xl font-bold">Packs</h1>
        <p className="mt-3 max-w-prose">
          No pack stands on the shelf yet.{' '}
          <Link to="/shelf/kit" className="underline underline-offset-2">
            Put one there
          </Link>{' '}
          in one line, as in <span className="reading">pack Col bank 10000mAh 3.7V 5V3A mpp</span>.
        </p>
      </div>
    )
  return (
    <div
      className={`px-6 pt-4 pb-8 ${over ? 'outline-primary outline-2 -outline-offset-4' : ''}`}
      onDragOver={(event) => {
        event.preventDefault()
        setOver(true)
      }}
      onDragLeave={() => {
        setOver(false)
      }}
      onDrop={(event) => {
        event.preventDefault()
        setOver(false)
        const dropped = event.dataTransfer.files[0]
        if (dropped) load.mutate(dropped)
      }}
    >
      <div className="flex flex-wrap items-baseline gap-4">
        <h1 className="text-xl font-bold">Packs</h1>
        <span className="soft text-sm">
          {counted(rows.length, 'pack')} · {counted(tests.filter((t) => t.kind === 'charge').length, 'charge')} ·{' '}
          {counted(tests.filter((t) => t.kind === 'load').length, 'load test')}
        </span>
        <span className="ml-auto flex gap-2">
          <input
            ref={file}
            type="file"
            className="hidden"
            aria-label="log of a load test"
            onChange={(event) => {
              const picked = event.target.files?.[0]
              if (picked) load.mutate(picked)
              event.target.value = ''
            }}
          />
          <button className="btn btn-outline border-base-300 btn-sm font-normal" disabled={!pack || load.isPending} onClick={() => file.current?.click()}>
            {load.isPending ? 'Reading …' : `Load test of ${pack?.label ?? 'it'}`}
          </button>
          <button
            className="btn btn-primary btn-sm"
            disabled={!pack}
            onClick={() => {
              setForm(true)
            }}
          >
            Charge a phone from it
          </button>
        </span>
      </div>
      {(load.error ?? list.error) && <ProblemLine error={load.error ?? list.error} />}
      {pack && form && (
        <ChargeForm
          key={pack.label}
          pack={pack.label}
          hasCoil={pack.has_coil}
          onKept={(kept) => {
            setForm(false)
            setTest(kept.id)
            say({ text: `The charge from ${kept.pack} is kept.` })
          }}
          onClose={() => {
            setForm(false)
          }}
        />
      )}
      <div className="mt-3 overflow-x-auto">
        <table className="w-full text-sm" aria-label="packs">
          <thead>
            <tr className="soft text-left text-xs">
              <th className="font-normal">pack</th>
              <th className="font-normal">energy of a full pack, Wh; broken lines are estimates</th>
              <th className="pl-4 text-right font-normal">full charges</th>
              <th className="pl-4 text-right font-normal">delivered</th>
              <th className="pl-4 text-right font-normal">a Wh delivered</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => {
              const charges = bestCharges(row)
              return (
                <tr key={row.label} className={`border-base-300 border-t align-top ${row.label === pack?.label ? 'bg-base-200' : ''}`}>
                  <td className="py-2 pr-4 pl-1">
                    <button
                      className="cursor-pointer text-left font-semibold underline-offset-2 hover:underline"
                      aria-pressed={row.label === pack?.label}
                      onClick={() => {
                        choose(row.label)
                      }}
                    >
                      {row.label}
                    </button>
                    <div className="soft text-xs whitespace-nowrap">
                      {row.rated_mah.toLocaleString('en')} mAh at {row.cell_v} V{row.price === null ? '' : ` · ${money(row.price, row.currency)}`}
                    </div>
                    <div className="mt-1 max-w-56">
                      <Strong text={row.verdict} />
                    </div>
                  </td>
                  <td className="py-2">
                    <Walk stages={row.stages} name={row.label} />
                  </td>
                  <td className="py-2 pl-4 text-right whitespace-nowrap">
                    {charges ? (
                      <>
                        <div className="reading text-lg">{charges.value.toFixed(2)}</div>
                        <div className="soft text-xs">
                  {charges.low.toFixed(2)} to {charges.high === null ? 'more' : charges.high.toFixed(2)}
                        </div>
                        <div className="soft text-xs">
                          {charges.phone} by {charges.way}
                        </div>
                      </>
                    ) : (
                      <span className="soft">–</span>
                    )}
                  </td>
                  <td className="reading py-2 pl-4 text-right whitespace-nowrap">
                    {row.share === null ? <span className="soft">–</span> : `${row.at_least ? 'at least ' : ''}${(100 * row.share).toFixed(0)} %`}
                  </td>
                  <td className="reading py-2 pr-1 pl-4 text-right whitespace-nowrap">
                    {row.per_wh === null ? <span className="soft">–</span> : money(row.per_wh, row.currency)}
                  </td>
                </tr>
              )
            })}
          </tbody>
        </table>
      </div>
      {pack && <PackTests pack={pack} chosen={test} onChoose={setTest} />}
      <p className="soft mt-6 max-w-prose text-xs">
        Never leave the first discharge of an unknown pack unattended, nor one that grows hot or swells: take the load off, and keep it away from what burns.
      </p>
    </div>
  )
}
