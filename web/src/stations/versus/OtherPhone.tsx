import { useState, type FormEvent } from 'react'
import type { Shape } from '../../api/client'
import { useKit } from '../../api/useKit'
import { useCarry, type Compared, type Versus } from '../../api/useVersus'
import { duration } from '../../ui/format'
import { ProblemLine } from '../../ui/Problem'
import { unbroken } from '../../ui/text'
import { Wide } from '../../ui/Wide'

interface Props {
  versus: Versus
  compared: Compared
}

/** What somebody with another phone may expect: estimates, never in the style of what was measured. */
export function OtherPhone({ versus, compared }: Props) {
  const kit = useKit()
  const carry = useCarry()
  const [phone, setPhone] = useState('')
  const [capacity, setCapacity] = useState('')
  const phones = (kit.data ?? []).filter((k) => k.kind === 'phone')
  const send = (event: FormEvent) => {
    event.preventDefault()
    const mah = Number(capacity.replace(',', '.'))
    carry.mutate({
      ...compared,
      start: versus.window.start,
      end: versus.window.end,
      phone,
      capacity_mah: phone || !mah ? null : mah,
    })
  }
  return (
    <div className="mt-2">
      <form className="flex flex-wrap items-center gap-3 text-sm" onSubmit={send} aria-label="another phone">
        <label className="flex items-center gap-2">
          <span className="soft">on</span>
          <select
            className="select select-sm w-52"
            aria-label="the other phone"
            value={phone}
            onChange={(e) => {
              setPhone(e.target.value)
            }}
          >
            <option value="">a phone not on the shelf</option>
            {phones.map((p) => (
              <option key={p.id} value={p.label}>
                {p.label}
              </option>
            ))}
          </select>
        </label>
        {phone === '' && (
          <label className="flex items-center gap-2">
            <span className="soft">of</span>
            <input
              className="input input-sm reading w-24 text-right"
              aria-label="its capacity, mAh"
              inputMode="decimal"
              required
              value={capacity}
              onChange={(e) => {
                setCapacity(e.target.value)
              }}
            />
            <span className="soft">mAh</span>
          </label>
        )}
        <button className="btn btn-primary btn-sm" disabled={carry.isPending}>
          Estimate
        </button>
      </form>
      {carry.isError && <ProblemLine error={carry.error} />}
      {carry.data ? (
        <Estimates found={carry.data} versus={versus} />
      ) : (
        <p className="soft mt-3 max-w-2xl text-sm">
          At equal percentages minutes go with the capacity, for a phone that takes as much from the charger. An estimate with a wide range: even phones of equal
          capacity differ.
        </p>
      )}
    </div>
  )
}

const WIDE = 180

function Estimates({ found, versus }: { found: Shape['CarryShape']; versus: Versus }) {
  const most = Math.max(1, ...found.rows.map((r) => r.high ?? 0))
  const rows = [...found.rows].sort((a, b) => (a.estimate ?? Infinity) - (b.estimate ?? Infinity))
  const x = (minutes: number) => (minutes / most) * (WIDE - 8) + 4
  return (
    <section aria-label="estimates" className="border-base-content/60 mt-3 max-w-5xl border-2 border-dashed px-4 py-2">
      <p className="text-sm">
        <b className="font-semibold">Estimated, not measured:</b> {found.phone}, {unbroken(`${found.capacity_mah.toFixed(0)} mAh, ${String(versus.window.start)} to ${String(versus.window.end)} %, ±${found.range_percent.toFixed(0)} %`)}
      </p>
      <Wide least={28} className="mt-1 w-full text-sm italic">
        <thead className="soft text-left text-xs">
          <tr>
            <th className="font-normal">by the runs of</th>
            <th className="text-right font-normal">about</th>
            <th className="pl-4 font-normal">between</th>
            <th className="pl-4 font-normal">rests on</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => (
            <tr key={r.label} className="border-base-300 border-t border-dashed">
              <th scope="row" className="py-1 pr-4 text-left font-normal whitespace-nowrap">
                {r.label}
              </th>
              {r.estimate === null || r.low === null || r.high === null ? (
                <td colSpan={3} className="soft py-1 pl-4 text-xs">
                  no estimate: {unbroken(r.said)}
                </td>
              ) : (
                <>
                  <td className="reading py-1 text-right whitespace-nowrap">~ {duration(r.estimate)}</td>
                  <td className="py-1 pl-4 whitespace-nowrap">
                    <span className="reading inline-block w-40 text-xs">
                      {duration(r.low)} to {duration(r.high)}
                    </span>
                    <svg width={WIDE} height="14" aria-hidden className="inline-block align-middle">
                      <rect x={x(r.low)} width={x(r.high) - x(r.low)} y="3" height="8" fill="none" className="stroke-base-content" strokeDasharray="3 2" />
                      <line x1={x(r.estimate)} x2={x(r.estimate)} y1="1" y2="13" className="stroke-base-content" strokeDasharray="2 2" />
                    </svg>
                  </td>
                  <td className="soft py-1 pl-4 text-xs">
                    {r.ratio !== null && `minutes × ${r.ratio.toFixed(2)}; `}
                    {unbroken(r.said)}
                  </td>
                </>
              )}
            </tr>
          ))}
        </tbody>
      </Wide>
    </section>
  )
}
