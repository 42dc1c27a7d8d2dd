import { Link } from 'react-router'
import type { Shape } from '../../api/client'
import { Ribbon } from '../../ribbon/Ribbon'
import { clock, duration } from '../../ui/format'
import { useWidth } from '../../ui/useWidth'
import type { RunWish } from './manyRuns'

interface Props {
  run: Shape['RunInFileShape']
  wish: RunWish
  minutes: number
  fullWatts: number
  canJoin: boolean
  onChange: (wish: Partial<RunWish>) => void
}

const noCursor = () => undefined

/** One run of a file: whether it is taken, its name, what it was charged by, and its ribbon. */
export function ManyRow({ run, wish, minutes, fullWatts, canJoin, onChange }: Props) {
  const [box, width] = useWidth()
  const off = !wish.kept && !wish.joined
  const field = (name: 'phone' | 'charger') => (
    <input
      className="input input-xs w-full"
      aria-label={`${name} of run ${String(run.n)}`}
      placeholder={name}
      value={wish[name]}
      maxLength={200}
      disabled={off || wish.joined}
      onChange={(e) => {
        onChange({ [name]: e.target.value })
      }}
    />
  )
  return (
    <li className={`border-base-300 grid grid-cols-[1.5rem_minmax(180px,260px)_minmax(0,1fr)_84px] items-center gap-x-3 border-b py-2 ${off ? 'opacity-60' : ''}`}>
      <input
        type="checkbox"
        className="checkbox checkbox-sm"
        aria-label={`take run ${String(run.n)}`}
        checked={wish.kept || wish.joined}
        disabled={wish.joined}
        onChange={(e) => {
          onChange({ kept: e.target.checked })
        }}
      />
      <div className="min-w-0 space-y-1">
        {wish.joined ? (
          <p className="soft text-sm">goes on with the one above</p>
        ) : (
          <>
            <input
              className="input input-sm w-full font-semibold"
              aria-label={`name of run ${String(run.n)}`}
              value={wish.label}
              maxLength={200}
              disabled={off}
              onChange={(e) => {
                onChange({ label: e.target.value })
              }}
            />
            <div className="grid grid-cols-2 gap-1">
              {field('phone')}
              {field('charger')}
            </div>
          </>
        )}
        {canJoin && (
          <label className="flex items-center gap-2 text-xs">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={wish.joined}
              onChange={(e) => {
                onChange({ joined: e.target.checked })
              }}
            />
            join with the one above{run.sure ? '' : ': perhaps the same phone after a stop'}
          </label>
        )}
        {run.read_before && (
          <p className="text-warning text-xs">
            read before:{' '}
            <Link className="underline" to={`/runs/${run.read_before.id}`}>
              {run.read_before.label}
            </Link>
          </p>
        )}
      </div>
      <div ref={box} className="min-w-0">
        {run.ribbon && width > 0 ? (
          <Ribbon
            data={run.ribbon}
            width={width}
            height={58}
            right={14}
            minutes={minutes}
            fullWatts={fullWatts}
            cursor={null}
            onCursor={noCursor}
            label={`ribbon of run ${String(run.n)}: ${run.ribbon.ticks.map((t) => `${String(t.percent)} % at ${duration(t.minute)}`).join(', ') || 'no check-ins'}`}
          />
        ) : (
          <span className="text-error text-sm">it cannot be read by itself</span>
        )}
      </div>
      <div className="text-right text-xs leading-tight">
        <span className="reading text-sm whitespace-nowrap">{duration(run.minutes)}</span>
        <div className="soft">
          {run.from_percent === null ? `from ${clock(run.start_min)}` : `${run.from_percent.toFixed(0)} to ${(run.to_percent ?? 0).toFixed(0)} %`}
        </div>
        {run.readings > 0 && <div className="soft">{run.readings} readings</div>}
      </div>
    </li>
  )
}
