import { NO_DIFFERENCE } from '../../api/rules'
import { useMemo, useState } from 'react'
import type { Pair, Versus } from '../../api/useVersus'
import { begun, Strong, unbroken } from '../../ui/text'

const SHOWN = 12

interface Props {
  versus: Versus
  /** The row that was chosen: its pairs alone are shown. */
  chosen: number | null
  onInstead: (runs: string[]) => void
}

/** What the times support: every pair in words, fair ones first. */
export function Pairs({ versus, chosen, onInstead }: Props) {
  const [all, setAll] = useState(false)
  const [open, setOpen] = useState<Pair | null>(null)
  const pairs = useMemo(
    () => versus.pairs.filter((p) => chosen === null || p.a === chosen || p.b === chosen),
    [versus.pairs, chosen],
  )
  const most = Math.max(1, ...pairs.map((p) => Math.abs(p.minutes_saved ?? 0) + (p.noise_min ?? 0)))
  const shown = all ? pairs : pairs.slice(0, SHOWN)
  return (
    <section aria-label="what the times support" className="mt-1">
      <ul>
        {shown.map((p) => (
          <PairRow
            key={`${String(p.a)} ${String(p.b)}`}
            pair={p}
            most={most}
            open={open === p}
            onOpen={() => {
              setOpen(open === p ? null : p)
            }}
            onInstead={onInstead}
          />
        ))}
      </ul>
      {pairs.length > SHOWN && (
        <button
          className="mt-2 cursor-pointer text-sm underline underline-offset-2"
          onClick={() => {
            setAll(!all)
          }}
        >
          {all ? 'show fewer' : `show all ${String(pairs.length)} pairs`}
        </button>
      )}
      {versus.more_pairs > 0 && all && (
        <p className="soft mt-1 text-xs">{versus.more_pairs} more pairs are not listed: choose a row, or fewer runs.</p>
      )}
    </section>
  )
}

interface RowProps {
  pair: Pair
  most: number
  open: boolean
  onOpen: () => void
  onInstead: (runs: string[]) => void
}

/** The window of a sentence, kept on one line. */
const together = (text: string) => text.replaceAll(/from (\S+) to (\S+) %/g, 'from\u00a0$1\u00a0to\u00a0$2\u00a0%')

function PairRow({ pair, most, open, onOpen, onInstead }: RowProps) {
  const fair = pair.fair === 'fair'
  return (
    <li className="border-base-300 border-b py-1.5">
      <div className="grid grid-cols-[96px_minmax(0,1fr)_116px_minmax(150px,216px)] items-center gap-x-3 max-sm:grid-cols-[96px_minmax(0,1fr)] max-sm:gap-y-1">
        <Whisker pair={pair} most={most} />
        <button className="cursor-pointer text-left text-[15px] leading-snug max-sm:order-first max-sm:col-span-2 max-sm:min-h-11" aria-expanded={open} onClick={onOpen}>
          <Strong text={together(begun(pair.said))} />
        </button>
        <span className="soft text-xs leading-snug">
          {pair.rates.split(', ').map((rate) => (
            <span key={rate} className="block">
              {unbroken(rate)}
            </span>
          ))}
        </span>
        <span className={`text-xs leading-snug max-sm:col-span-2 ${fair ? 'soft' : 'font-semibold'}`}>{unbroken(pair.fair_said)}</span>
      </div>
      {pair.besides && <p className="soft pl-27 text-xs max-sm:pl-0">{unbroken(begun(pair.besides))}</p>}
      {(pair.offers.length > 0 || pair.missing) && (
        <p className="mt-0.5 pl-27 text-xs max-sm:pl-0">
          {pair.offers.length > 0 ? (
            <>
              <span className="soft">nearest fair: </span>
              {pair.offers.map((o, i) => (
                <span key={o.runs.join()}>
                  {i > 0 && <span className="soft"> · </span>}
                  <button
                    className="cursor-pointer underline underline-offset-2"
                    title={o.said}
                    onClick={() => {
                      onInstead(o.runs)
                    }}
                  >
                    {o.label}
                  </button>
                </span>
              ))}
            </>
          ) : (
            <span className="soft">{unbroken(begun(pair.missing))}.</span>
          )}
        </p>
      )}
      {open && <More pair={pair} />}
    </li>
  )
}

/** What stands behind a pair: its noise, the largest gap, the repeats alone. */
function More({ pair }: { pair: Pair }) {
  const lines: [string, string][] = [
    ...(pair.gap ? [['curves', pair.gap] as [string, string]] : []),
    ...(pair.welch
      ? [['repeats alone', `Welch's 95 % interval ${pair.welch.map((w) => w.toFixed(0)).join(' to ')} min`] as [string, string]]
      : []),
    ...pair.notes.map((n): [string, string] => ['careful', begun(n)]),
    ...(pair.basis ? [['noise', pair.basis] as [string, string]] : []),
  ]
  return (
    <dl className="bg-base-200 mt-1 ml-27 grid max-sm:ml-0 grid-cols-[96px_minmax(0,1fr)] gap-x-3 gap-y-0.5 px-3 py-2 text-xs">
      {lines.map(([name, text], i) => (
        <div key={i} className="contents">
          <dt className="soft">{name}</dt>
          <dd>{unbroken(text)}</dd>
        </div>
      ))}
    </dl>
  )
}

const WIDE = 96
const ZERO = 30

/** A difference on a scale of minutes: the dot is what was found, the line its noise; a tie straddles the middle. */
function Whisker({ pair, most }: { pair: Pair; most: number }) {
  const { minutes_saved: saved, noise_min: noise } = pair
  const label = saved === null || noise === null ? 'no comparison' : `${Math.abs(saved).toFixed(0)} min apart, noise ${noise.toFixed(0)} min`
  const x = (minutes: number) => Math.max(2, ZERO + (minutes / most) * (WIDE - ZERO - 6))
  // Who is sooner stands first in the sentence: what is shown reaches to the right.
  const size = Math.abs(saved ?? 0)
  const tie = pair.verdict === NO_DIFFERENCE
  return (
    <svg width={WIDE} height="18" role="img" aria-label={label}>
      <line x1={ZERO} x2={ZERO} y1="1" y2="17" className="stroke-base-content/40" strokeDasharray="2 2" />
      {saved !== null && noise !== null && (
        <>
          <line x1={x(size - noise)} x2={x(size + noise)} y1="9" y2="9" className="stroke-base-content" strokeWidth={tie ? 1.2 : 2.2} />
          {[size - noise, size + noise].map((end) => (
            <line key={end} x1={x(end)} x2={x(end)} y1="5" y2="13" className="stroke-base-content" strokeWidth="1.2" />
          ))}
          {tie ? (
            <g className="stroke-base-content" strokeWidth="2.4">
              <rect x={x(size) - 7} y="2" width="14" height="14" className="fill-base-100 stroke-none" />
              <line x1={x(size) - 5} x2={x(size) + 5} y1="6.5" y2="6.5" />
              <line x1={x(size) - 5} x2={x(size) + 5} y1="11.5" y2="11.5" />
            </g>
          ) : (
            <circle cx={x(size)} cy="9" r="4.5" className={pair.fair === 'fair' ? 'fill-base-content' : 'fill-base-100 stroke-base-content'} strokeWidth="1.6" />
          )}
        </>
      )}
    </svg>
  )
}
