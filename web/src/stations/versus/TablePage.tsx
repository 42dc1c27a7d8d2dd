import { Check, Plus } from 'lucide-react'
import { useMemo, useState } from 'react'
import { Link, useNavigate } from 'react-router'
import type { Shape } from '../../api/client'
import { usePhoneTable, usePlanDraft } from '../../api/useVersus'
import { duration } from '../../ui/format'
import { ProblemLine } from '../../ui/Problem'
import { useKeys } from '../../ui/useKeys'
import { versusPath } from '../../shared/paths'
import { windowText } from './compared'
import { unbroken } from '../../ui/text'

type Field = Shape['FieldShape']

/** So much ink lies behind a time twice that of the soonest [%]. */
const MOST_SHADE = 13

const key = (f: { phone: string; charger: string }) => `${f.phone}\u0000${f.charger}`

/** Chargers × phones: medians under like conditions, and what nobody ran yet. */
export function TablePage() {
  const table = usePhoneTable()
  const draft = usePlanDraft()
  const navigate = useNavigate()
  const [wanted, setWanted] = useState<Set<string>>(new Set())
  useKeys(useMemo(() => ({ m: () => void navigate('/versus') }), [navigate]))
  const fields = useMemo(() => new Map((table.data?.fields ?? []).map((f) => [key(f), f])), [table.data])
  const shades = useMemo(() => shadesOf(table.data?.fields ?? []), [table.data])
  const send = () => {
    const picked = [...wanted].map((k) => {
      const [phone = '', charger = ''] = k.split('\u0000')
      return { phone, charger }
    })
    draft.mutate(picked, {
      onSuccess: (made) => void navigate('/plan/new', { state: made }),
    })
  }
  const toggle = (f: Field) => {
    setWanted((was) => {
      const next = new Set(was)
      if (!next.delete(key(f))) next.add(key(f))
      return next
    })
  }
  return (
    <div className="flex h-full flex-col px-6 pt-3 max-sm:px-3">
      <div className="flex items-center gap-4 pb-2 max-sm:flex-wrap">
        <Link to="/versus" className="soft hover:text-base-content text-lg underline decoration-dotted underline-offset-4">
          Versus
        </Link>
        <h1 className="text-2xl font-bold whitespace-nowrap">Phones × chargers</h1>
        <p className="soft min-w-0 grow truncate text-sm" title={table.data?.usual}>
          {table.data && unbroken(`medians under the usual conditions: ${table.data.usual || 'nothing stated'}`)}
        </p>
        <button className="btn btn-primary btn-sm" disabled={wanted.size === 0 || draft.isPending} onClick={send}>
          {wanted.size ? `Plan ${String(wanted.size)} ${wanted.size === 1 ? 'run' : 'runs'}` : 'Plan what is missing'}
        </button>
      </div>
      {table.isError && <ProblemLine error={table.error} />}
      {draft.isError && <ProblemLine error={draft.error} />}
      {table.isPending && <p className="soft py-8">Reading the runs …</p>}
      {table.data && table.data.left > 0 && (
        <p className="soft pb-1 text-sm" role="status">
          {table.data.left === 1 ? 'One phone is' : `${String(table.data.left)} phones are`} still being worked out, as their runs have changed.
        </p>
      )}
      {table.data?.columns.length === 0 && table.data.left === 0 && (
        <p className="py-8">No run names its phone and its charger yet. Name them on a run and it appears here.</p>
      )}
      {table.data && table.data.columns.length > 0 && (
        <div className="min-h-0 flex-1 overflow-auto">
          <table className="w-full border-separate border-spacing-0 text-sm">
            <thead className="bg-base-100 sticky top-0 z-10">
              <tr>
                <th className="border-base-content border-b py-1 pr-4 text-left text-xs font-normal">
                  <span className="soft">charger</span>
                </th>
                {table.data.columns.map((c) => (
                  <th key={c.phone} scope="col" className="border-base-content min-w-40 border-b px-3 py-1 text-left font-semibold">
                    {c.phone}
                    <span className="soft block text-xs font-normal">{c.window ? windowText(c.window) : 'no check-ins'}</span>
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {table.data.chargers.map((charger) => (
                <tr key={charger}>
                  <th scope="row" className="border-base-300 border-b py-2 pr-4 text-left align-top font-semibold">
                    {charger}
                  </th>
                  {table.data.columns.map((c) => {
                    const field = fields.get(key({ phone: c.phone, charger }))
                    return field ? (
                      <FieldCell
                        key={c.phone}
                        field={field}
                        shade={shades.get(key(field))}
                        usual={table.data.usual}
                        wanted={wanted.has(key(field))}
                        onWanted={() => {
                          toggle(field)
                        }}
                      />
                    ) : (
                      <td key={c.phone} className="border-base-300 border-b" />
                    )
                  })}
                </tr>
              ))}
            </tbody>
          </table>
          <p className="soft py-3 text-xs">
            Places are per phone, a range where the times are too close to tell; the stronger the shade, the slower on that phone. Times end where every charger begins to slow. A time opens its runs; a ticked cell goes into a plan.
          </p>
        </div>
      )}
    </div>
  )
}

/** How dark each field is, in percent of ink: by how much longer it takes than the soonest of its phone. */
function shadesOf(fields: Field[]): Map<string, number> {
  const soonest = new Map<string, number>()
  for (const f of fields) if (f.median !== null) soonest.set(f.phone, Math.min(soonest.get(f.phone) ?? Infinity, f.median))
  return new Map(
    fields.flatMap((f): [string, number][] => {
      const least = soonest.get(f.phone)
      return f.median === null || least === undefined ? [] : [[key(f), Math.min(MOST_SHADE, Math.round(((f.median / least) - 1) * MOST_SHADE))]]
    }),
  )
}

interface CellProps {
  field: Field
  /** Percent of ink behind its minutes. */
  shade: number | undefined
  usual: string
  wanted: boolean
  onWanted: () => void
}

function FieldCell({ field, shade = 0, usual, wanted, onWanted }: CellProps) {
  const ids = [...field.runs, ...field.others].map((r) => r.id)
  const opens = ids.length > 1 ? versusPath(ids) : `/runs/${ids[0] ?? ''}`
  const filled = field.median !== null
  const all = field.count + field.others_count
  const newest = all > ids.length ? `opens the newest ${String(ids.length)} of ${String(all)} runs` : undefined
  return (
    <td
      className={`border-base-300 border-b px-3 py-2 align-top ${filled ? '' : 'soft'}`}
      style={shade ? { backgroundColor: `color-mix(in srgb, var(--color-base-content) ${String(shade)}%, transparent)` } : undefined}
    >
      {filled && field.median !== null && (
        <Link to={opens} className="hover:bg-base-200 -mx-2 block rounded px-2" title={newest}>
          <span className={`reading ${field.place.startsWith('1') ? 'font-bold' : ''}`}>{duration(field.median)}</span>
          {field.place && <span className="ml-2 text-xs">place {field.place}</span>}
          <span className="soft block text-xs">
            {field.count} {field.count === 1 ? 'run' : 'runs'}
            {field.spread && `, ${field.spread.map((m) => m.toFixed(0)).join(' to ')} min`}
          </span>
        </Link>
      )}
      {field.others.length > 0 && (
        <Link to={opens} className="block text-xs underline decoration-dotted underline-offset-2" title={[...(newest ? [newest] : []), ...field.others.map((o) => `${o.label}: ${o.apart}`)].join('\n')}>
          {filled ? 'and ' : ''}
          {field.others_count} under other conditions
        </Link>
      )}
      {!filled && (
        <span className="mt-0.5 flex items-start gap-1.5 text-xs">
          <button
            className={`reach grid h-5 w-5 shrink-0 cursor-pointer place-items-center rounded ${wanted ? 'bg-primary text-primary-content' : 'hover:bg-base-200'}`}
            aria-pressed={wanted}
            aria-label={`plan ${field.charger} on ${field.phone}`}
            title={`plan a run of ${field.charger} on ${field.phone}: ${usual}`}
            onClick={onWanted}
          >
            {wanted ? <Check size={13} strokeWidth={2.5} aria-hidden /> : <Plus size={13} aria-hidden />}
          </button>
          {field.pointless && <span className="max-w-64 italic">{unbroken(field.pointless)}</span>}
        </span>
      )}
    </td>
  )
}
