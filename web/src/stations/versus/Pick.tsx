import { useEffect, useMemo, useRef, useState } from 'react'
import { Link } from 'react-router'
import { useQuery } from '@tanstack/react-query'
import { queries } from '../../api/queries'
import { useRunList } from '../../api/useRuns'
import { holdsAll } from '../../api/useSettled'
import { useOffered } from '../../api/useVersus'
import { duration } from '../../ui/format'
import { FilterField } from '../../ui/FilterField'
import { MeasuredOnly } from '../../ui/MeasuredOnly'
import { ProblemLine } from '../../ui/Problem'
import { dateAt } from '../../ui/times'
import { Simulated } from '../../shared/Simulated'
import { aroundOf, chainOf } from '../../shared/words'
import { versusPath } from '../../shared/paths'
import { windowText } from './compared'

/** Where nothing is compared yet: what there is to compare, one click each. */
export function Offered() {
  const offered = useOffered()
  if (offered.isError) return <ProblemLine error={offered.error} />
  if (!offered.data) return <p className="soft py-6">Looking through the runs …</p>
  if (offered.data.length === 0)
    return (
      <div className="border-base-300 mt-6 max-w-xl rounded border border-dashed p-6">
        <p className="text-lg font-semibold">Two runs are needed to compare.</p>
        <p className="soft mt-1">
          Read a second one under{' '}
          <Link to="/runs/read" className="underline underline-offset-2">
            Runs
          </Link>
          . Best of the same phone, with one thing changed: then it is a fair pair.
        </p>
      </div>
    )
  const kinds = { plan: 'a plan', phone: 'everything on', all: '' } as Record<string, string>
  return (
    <ul className="mt-4 max-w-3xl">
      {offered.data.map((o, i) => (
        <li key={`${o.kind} ${o.title}`} className="border-base-300 border-b">
          <Link to={versusPath(o.runs, o.window)} className="hover:bg-base-200 flex items-baseline gap-3 px-2 py-2.5 max-sm:flex-col max-sm:gap-0.5" data-first={i === 0 || undefined}>
            <span className="min-w-0 grow">
              {kinds[o.kind] && <span className="soft">{kinds[o.kind]} </span>}
              <b className="font-semibold">{o.title}</b>
            </span>
            <span className="soft text-sm whitespace-nowrap">
              {o.runs.length} runs, {o.chargers} {o.chargers === 1 ? 'charger' : 'chargers'}
              {o.window && `, ${windowText(o.window)}`}
            </span>
          </Link>
        </li>
      ))}
    </ul>
  )
}

interface PickProps {
  runs: string[]
  onRuns: (runs: string[]) => void
  onClose: () => void
}

/** Which runs are compared: tick them, by hand or a phone or a plan at once. */
export function PickRuns({ runs, onRuns, onClose }: PickProps) {
  const offered = useOffered()
  const [picked, setPicked] = useState(() => new Set(runs))
  const [filter, setFilter] = useState('')
  const [measuredOnly, setMeasuredOnly] = useState(true)
  const dialog = useRef<HTMLDialogElement>(null)
  const field = useRef<HTMLInputElement>(null)
  useEffect(() => {
    dialog.current?.showModal()
    field.current?.focus()
  }, [])
  const compared = useQuery(queries.runsNamed(runs))
  const { rows, hasMore, more } = useRunList({ words: filter, kind: measuredOnly ? 'measured' : 'all', limit: 200 })
  const shown = useMemo(() => {
    const fits = (compared.data ?? []).filter((r) => holdsAll([r.label, ...Object.values(r.factors)], filter))
    // What is compared already stands first.
    return [...fits, ...rows.filter((r) => !runs.includes(r.id))]
  }, [compared.data, rows, filter, runs])
  const toggle = (ids: string[], on: boolean) => {
    setPicked((was) => {
      const next = new Set(was)
      for (const id of ids) if (on) next.add(id)
      else next.delete(id)
      return next
    })
  }
  return (
    <dialog ref={dialog} className="modal" aria-label="runs to compare" onClose={onClose}>
      <form
        className="modal-box flex h-[86vh] max-w-4xl flex-col"
        onSubmit={(e) => {
          e.preventDefault()
          onRuns([...picked])
          dialog.current?.close()
        }}
      >
        <div className="flex items-center gap-3">
          <h2 className="text-lg font-bold">Runs to compare</h2>
          <FilterField field={field} value={filter} onChange={setFilter} label="filter the runs to choose" placeholder="filter: phone, charger, case …" />
          <MeasuredOnly only={measuredOnly} onOnly={setMeasuredOnly} />
          <button
            type="button"
            className="btn btn-sm btn-ghost ml-auto font-normal"
            onClick={() => {
              toggle(shown.map((r) => r.id), !shown.every((r) => picked.has(r.id)))
            }}
          >
            {shown.every((r) => picked.has(r.id)) ? 'none of these' : 'all of these'}
          </button>
        </div>
        <p className="mt-2 flex flex-wrap gap-x-4 gap-y-1 text-sm">
          {(offered.data ?? []).slice(0, 6).map((o) => (
            <button
              key={`${o.kind} ${o.title}`}
              type="button"
              className="max-w-72 cursor-pointer truncate underline decoration-dotted underline-offset-2"
              title={o.title}
              onClick={() => {
                setPicked(new Set(o.runs))
              }}
            >
              {o.title}
            </button>
          ))}
        </p>
        <ul
          className="border-base-300 mt-2 min-h-0 grow overflow-auto border-y"
          onScroll={({ currentTarget: list }) => {
            if (hasMore && list.scrollTop + 2 * list.clientHeight > list.scrollHeight) more()
          }}
        >
          {shown.map((r) => (
            <li key={r.id} className="border-base-300 border-b">
              <label className="hover:bg-base-200 grid cursor-pointer grid-cols-[20px_92px_minmax(0,1fr)_90px] items-center gap-3 px-2 py-1 text-sm">
                <input
                  type="checkbox"
                  className="checkbox checkbox-sm"
                  checked={picked.has(r.id)}
                  onChange={(e) => {
                    toggle([r.id], e.target.checked)
                  }}
                />
                <time className="soft text-xs whitespace-nowrap" dateTime={r.started_at ?? r.created_at} title={r.started_at ? 'began' : 'read'}>
                  {dateAt(r.started_at ?? r.created_at, r.zone)}
                </time>
                <span className="truncate" title={r.label}>
                  {r.simulated && <Simulated />}
                  {r.copy_of && <span className="border-base-content mr-1.5 border px-1 text-[11px] leading-4">copy</span>}
                  <b className="font-semibold">{r.factors.phone || r.label}</b> <span className="soft">{[chainOf(r.factors), aroundOf(r.factors)].filter(Boolean).join(' · ')}</span>
                </span>
                <span className="soft text-right text-xs">{r.summary.to_80 ? `80 % in ${duration(r.summary.to_80.estimate)}` : 'no 80 %'}</span>
              </label>
            </li>
          ))}
          {shown.length === 0 && <li className="soft p-3">No run matches.</li>}
        </ul>
        <div className="mt-3 flex items-center gap-3">
          <span className="soft text-sm" role="status">
            {picked.size} chosen
          </span>
          <button
            type="button"
            className="btn btn-sm btn-ghost ml-auto font-normal"
            onClick={() => {
              dialog.current?.close()
            }}
          >
            Cancel
          </button>
          <button className="btn btn-primary btn-sm" disabled={picked.size < 2}>
            Compare {picked.size}
          </button>
        </div>
      </form>
    </dialog>
  )
}
