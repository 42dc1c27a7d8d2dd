import { useEffect, useRef, useState, type FormEvent } from 'react'
import type { Shape } from '../../api/client'
import { useClaim, type Compared, type Versus } from '../../api/useVersus'
import { ProblemLine } from '../../ui/Problem'
import { sooner } from './Stack'
import { unbroken } from '../../ui/text'
import { Wide } from '../../ui/Wide'

const EXAMPLES = ['35 % faster', 'full 40 minutes sooner', '60 % in 45 minutes', '1.4 times as fast to 80 %', '20 % less time']

interface Props {
  versus: Versus
  compared: Compared
}

/** A claim, held against the times under every reading that it can have. */
export function Claim({ versus, compared }: Props) {
  const order = sooner(versus.rows)
  const [text, setText] = useState('')
  const [a, setA] = useState(order[0] ?? 0)
  const [b, setB] = useState(order[1] ?? 1)
  const claim = useClaim()
  const field = useRef<HTMLInputElement>(null)
  useEffect(() => {
    field.current?.focus()
  }, [])
  const check = (typed: string, of: number, against: number) => {
    if (!typed.trim()) return
    claim.mutate({ ...compared, start: versus.window.start, end: versus.window.end, text: typed, a: of, b: against })
  }
  const send = (event: FormEvent) => {
    event.preventDefault()
    check(text, a, b)
  }
  const choose = (label: string, value: number, onValue: (n: number) => void) => (
    <label className="flex items-center gap-2">
      <span className="soft">{label}</span>
      <select
        className="select select-sm w-60"
        value={value}
        onChange={(e) => {
          onValue(Number(e.target.value))
        }}
      >
        {order.map((n) => (
          <option key={n} value={n}>
            {versus.rows[n]?.label}
          </option>
        ))}
      </select>
    </label>
  )
  return (
    <div className="mt-2">
      <form className="flex flex-wrap items-center gap-3 text-sm" onSubmit={send} aria-label="a claim">
        {choose('of', a, (n) => {
          setA(n)
          if (claim.data) check(text, n, b)
        })}
        <span className="soft">it is claimed:</span>
        <input
          ref={field}
          className="input w-72"
          aria-label="the claim"
          placeholder={EXAMPLES[0]}
          maxLength={300}
          value={text}
          onChange={(e) => {
            setText(e.target.value)
          }}
        />
        {choose('against', b, (n) => {
          setB(n)
          if (claim.data) check(text, a, n)
        })}
        <button className="btn btn-primary btn-sm" disabled={!text.trim() || claim.isPending}>
          Check it
        </button>
      </form>
      <p className="soft mt-1 text-xs">
        as{' '}
        {EXAMPLES.map((e, i) => (
          <span key={e}>
            {i > 0 && ', '}
            <button
              className="cursor-pointer underline decoration-dotted underline-offset-2"
              onClick={() => {
                setText(e)
                check(e, a, b)
              }}
            >
              {unbroken(e)}
            </button>
          </span>
        ))}
      </p>
      {claim.isError && <ProblemLine error={claim.error} />}
      {claim.data && <Outcome found={claim.data} />}
    </div>
  )
}

function Outcome({ found }: { found: Shape['ClaimShape'] }) {
  return (
    <div className="mt-3">
      <p>
        <b className="font-semibold">{found.verdict}</b> <span className="soft">Understood as: {unbroken(found.said)}, of {found.about}.</span>
      </p>
      <Wide least={34} className="mt-1 w-full max-w-4xl text-sm">
        <thead className="soft border-base-300 border-b text-left text-xs">
          <tr>
            <th className="py-1 font-normal">read as</th>
            <th className="py-1 text-right font-normal">found</th>
            <th className="py-1 pl-6 font-normal">the times</th>
            <th className="py-1 font-normal">from</th>
          </tr>
        </thead>
        <tbody>
          {found.checks.map((c) => (
            <tr key={c.reading} className="border-base-300 border-b">
              <th scope="row" className="py-1 text-left font-normal">
                {unbroken(c.reading)}
              </th>
              <td className="reading py-1 text-right whitespace-nowrap">{c.found === null || c.high === null ? '' : figure(c.found, c.high - c.found, c.unit)}</td>
              <td className="py-1 pl-6">
                <span className={c.outcome === 'supported' ? 'font-semibold' : c.outcome === 'not supported' ? 'border-base-content border px-1' : 'soft'}>{c.outcome}</span>
              </td>
              <td className="soft py-1 text-xs">{unbroken(c.basis)}</td>
            </tr>
          ))}
        </tbody>
      </Wide>
    </div>
  )
}

function figure(found: number, half: number, unit: string): string {
  const places = unit === '×' ? 2 : 0
  return `${found.toFixed(places)} ± ${half.toFixed(places)} ${unit}`
}
