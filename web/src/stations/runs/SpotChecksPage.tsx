import { queries } from '../../api/queries'
import { useQuery } from '@tanstack/react-query'
import { useMemo, useRef, useState } from 'react'
import { Link } from 'react-router'
import { FilterField } from '../../ui/FilterField'
import { MeasuredOnly } from '../../ui/MeasuredOnly'
import { ProblemLine } from '../../ui/Problem'
import { useKeys } from '../../ui/useKeys'
import { SpotTable } from '../../shared/SpotTable'
import { RunsTabs } from './RunsTabs'

/** All spot checks that were made: minutes of watts, kept apart from runs. */
export function SpotChecksPage() {
  const checks = useQuery(queries.spotChecks())
  const [filter, setFilter] = useState('')
  const [measuredOnly, setMeasuredOnly] = useState(true)
  const field = useRef<HTMLInputElement>(null)
  useKeys(useMemo(() => ({ f: () => field.current?.focus() }), []))
  const shown = useMemo(() => {
    const words = filter.toLowerCase().split(/\s+/).filter(Boolean)
    return (checks.data ?? []).filter((r) => {
      const text = `${r.phone} ${r.label} ${r.seems}`.toLowerCase()
      return words.every((w) => text.includes(w)) && (!measuredOnly || !r.simulated)
    })
  }, [checks.data, filter, measuredOnly])
  return (
    <div className="flex h-full flex-col px-6 pt-4 max-sm:px-3">
      <div className="flex items-center gap-3 pb-2 max-sm:flex-wrap">
        <RunsTabs shown="/runs/spot" />
        <Link to="/bench/spot" className="btn btn-primary btn-sm ml-auto">
          Make a spot check
        </Link>
      </div>
      {checks.isError && <ProblemLine error={checks.error} />}
      {checks.isPending && <p className="soft py-8">Reading the spot checks …</p>}
      {checks.data?.length === 0 && (
        <p className="max-w-xl py-8">No spot check yet: ramp and settled watts of a chain in one to five minutes, metered or typed by hand.</p>
      )}
      {checks.data && checks.data.length > 0 && (
        <>
          <div className="flex items-center gap-4 pb-2 max-sm:flex-wrap">
            <FilterField field={field} value={filter} onChange={setFilter} label="filter the spot checks" placeholder="filter: phone, charger, 15 W …" />
            <MeasuredOnly only={measuredOnly} onOnly={setMeasuredOnly} />
          </div>
          <div className="min-h-0 flex-1 overflow-auto">
            {shown.length > 0 ? <SpotTable rows={shown} dated /> : <p className="soft py-8">No spot check matches.</p>}
          </div>
        </>
      )}
    </div>
  )
}
