import { useState } from 'react'
import type { Shape } from '../../api/client'
import { TestList, TestShown } from './PackTests'

interface Props {
  rows: Shape['GiverRow'][]
  onCharge: (label: string) => void
}

/** Phones that give, wirelessly or by cord: a phone as the pack. */
export function Givers({ rows, onCharge }: Props) {
  const [shown, setShown] = useState<string | null>(null)
  if (rows.length === 0) return null
  return (
    <section aria-label="phones that give" className="mt-8 max-w-5xl">
      <h2 className="font-semibold">Phones that give</h2>
      {rows.map((row) => (
        <div key={row.label} className="border-base-300 mt-2 border-t pt-2">
          <div className="flex flex-wrap items-baseline gap-x-4">
            <b>{row.label}</b>
            <span className="soft text-sm">
              {row.battery_wh.toFixed(1)} Wh{row.gives_w !== null && ` · gives ${String(row.gives_w)} W`}
              {row.stop_percent !== null && ` · stops at ${String(row.stop_percent)} %`}
            </span>
            <button
              className="btn btn-outline border-base-300 btn-xs ml-auto font-normal"
              onClick={() => {
                onCharge(row.label)
              }}
            >
              Charge a phone from {row.label}
            </button>
          </div>
          {row.tests.length === 0 ? (
            <p className="soft text-sm">Not tested yet: read both phones together every quarter of an hour.</p>
          ) : (
            <TestList tests={row.tests} shown={shown} onChoose={setShown} />
          )}
          {row.tests.some((t) => t.id === shown) && shown !== null && <TestShown id={shown} />}
        </div>
      ))}
    </section>
  )
}
