import { NO_DIFFERENCE } from '../../api/rules'
import type { Shape } from '../../api/client'
import type { Row, Versus } from '../../api/useVersus'
import { begun, unbroken } from '../../ui/text'
import { Wide } from '../../ui/Wide'

type Effect = Shape['EffectShape']

/** What single factors do, by all fair pairs that isolate one. */
export function Effects({ versus }: { versus: Versus }) {
  if (versus.effects.length === 0)
    return (
      <p className="mt-3 max-w-2xl">
        No two of these runs differ in one factor only. Add a run that differs in just one thing to see what that thing does.
      </p>
    )
  const most = Math.min(150, Math.max(20, ...versus.effects.flatMap((e) => [Math.abs(e.low_percent), Math.abs(e.high_percent)])))
  return (
    <>
      <Wide least={32} className="mt-1 w-full text-sm">
        <thead className="soft border-base-300 border-b text-left text-xs">
          <tr>
            <th className="py-1 font-normal">factor</th>
            <th className="py-1 font-normal">from</th>
            <th className="py-1 font-normal">to</th>
            <th className="w-44 py-1 text-center font-normal">less time | more time</th>
            <th className="py-1 pr-6 text-right font-normal">changes the time by</th>
            <th className="py-1 font-normal">seen on</th>
          </tr>
        </thead>
        <tbody>
          {versus.effects.map((e) => (
            <EffectRow key={`${e.factor} ${e.from_level} ${e.to_level}`} effect={e} rows={versus.rows} most={most} />
          ))}
        </tbody>
      </Wide>
      <p className="soft mt-2 text-xs">
        Only fair pairs count. Where a contrast recurs, its ratios of times are put together, each weighted by its noise; intervals are 95 %.
      </p>
    </>
  )
}

/** A change of the time in percent: less or more. */
const change = (less: number) => `${Math.abs(less).toFixed(0)} % ${less >= 0 ? 'less' : 'more'}`

function EffectRow({ effect, rows, most }: { effect: Effect; rows: Row[]; most: number }) {
  const tie = effect.verdict === NO_DIFFERENCE
  const apart = effect.alike === false
  return (
    <tr className="border-base-300 border-b align-top">
      <td className="py-1.5 pr-3">{effect.said}</td>
      <td className="py-1.5 pr-3">{effect.from_level}</td>
      <td className="py-1.5 pr-3">{effect.to_level}</td>
      <td className="py-1.5">
        {!apart && <Bar effect={effect} most={most} />}
      </td>
      <td className="py-1.5 pr-6 text-right whitespace-nowrap">
        {tie || apart ? effect.verdict : <b className="font-semibold">{unbroken(change(effect.less_time_percent))}</b>}
        {!apart && (
          <span className="soft block text-xs">
            {unbroken(`${change(effect.high_percent)} to ${change(effect.low_percent)}`)}
          </span>
        )}
      </td>
      <td className="py-1.5 text-xs leading-5">
        {effect.contrasts.map((c) => (
          <div key={`${String(c.a)} ${String(c.b)}`} title={c.where}>
            {begun(rows[c.a]?.label ?? c.where)}, to {rows[c.b]?.label}: <span className={c.shown ? '' : 'soft'}>{unbroken(`${c.minutes >= 0 ? '−' : '+'}${Math.abs(c.minutes).toFixed(0)} ± ${c.noise_min.toFixed(0)} min`)}</span>
          </div>
        ))}
        {apart && <div className="font-semibold">The effect differs from pair to pair; no single figure holds.</div>}
      </td>
    </tr>
  )
}

const WIDE = 168

function Bar({ effect, most }: { effect: Effect; most: number }) {
  const x = (less: number) => WIDE / 2 - (Math.max(-most, Math.min(most, less)) / most) * (WIDE / 2 - 6)
  return (
    <svg width={WIDE} height="16" role="img" aria-label={change(effect.less_time_percent)} className="mx-auto block">
      <line x1={WIDE / 2} x2={WIDE / 2} y1="0" y2="16" className="stroke-base-content/40" strokeDasharray="2 2" />
      <line x1={x(effect.high_percent)} x2={x(effect.low_percent)} y1="8" y2="8" className="stroke-base-content" strokeWidth="2" />
      {Math.abs(effect.less_time_percent) > most ? (
        <path d={`M ${String(x(effect.less_time_percent))} 3 l ${effect.less_time_percent > 0 ? '-6' : '6'} 5 l ${effect.less_time_percent > 0 ? '6' : '-6'} 5 z`} className="fill-base-content">
          <title>beyond this scale</title>
        </path>
      ) : (
        <circle cx={x(effect.less_time_percent)} cy="8" r="4" className={effect.verdict === NO_DIFFERENCE ? 'fill-base-100 stroke-base-content' : 'fill-base-content'} />
      )}
    </svg>
  )
}
