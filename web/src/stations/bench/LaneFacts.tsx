import { laneNow, type Lane } from '../../api/bench'
import { heatColour } from '../../ribbon/heat'
import { degreesText } from '../../ui/format'
import { useSettings } from '../../reader/settings'
import { apart } from '../../ui/times'

/** What a lane shows in figures: its letter, percentage with its age, watts, heat, phase. */
export function LaneFacts({ lane, tall, chosen, onChoose }: { lane: Lane; tall: boolean; chosen: boolean; onChoose: () => void }) {
  const { view } = lane
  const { degrees } = useSettings()
  const age = view.percent_s === null ? null : laneNow(lane) - view.percent_s
  const hot = view.hottest_c
  const silence = view.watts_s === null ? 0 : laneNow(lane) - view.watts_s
  const stale = view.state === 'running' && view.meter !== '' && silence > view.silent_s
  const alone = view.kind === 'load' || view.kind === 'recharge'
  const packLevel = view.pack_level === '' ? '' : /^[\d.]+$/.test(view.pack_level) ? `${view.pack_level} %` : view.pack_level
  const figures = (
    <>
      {view.watts !== null && (
        <span className={`reading whitespace-nowrap ${stale ? 'soft' : ''}`}>
          {view.watts.toFixed(1)} W{stale && <span className="font-sans text-xs"> {apart(silence)} ago</span>}{view.shared_with.length > 0 && <span className="soft font-sans text-xs"> with {view.shared_with.join(', ')}</span>}
        </span>
      )}
      {view.socket_w !== null && (
        <span className="soft text-sm whitespace-nowrap">
          socket <span className="reading">{view.socket_w.toFixed(1)} W</span>
        </span>
      )}
      {!alone && packLevel && <span className="soft text-sm whitespace-nowrap">pack {packLevel}</span>}
      {hot !== null && (
        <span className="reading border-b-4 whitespace-nowrap" style={{ borderColor: heatColour(hot) }}>
          {degreesText(hot, degrees)} °{degrees}
        </span>
      )}
    </>
  )
  const percent = alone ? (
    <span className="whitespace-nowrap">
      <span className={tall ? 'text-2xl font-medium' : 'text-lg font-medium'}>{packLevel || '–'}</span>
    </span>
  ) : (
    <span className="whitespace-nowrap">
      <span className={tall ? 'text-3xl font-medium' : 'text-lg font-medium'}>{view.percent === null ? '–' : view.percent.toFixed(0)}</span>
      <span className="text-sm"> %</span>
      {age !== null && <span className="soft text-xs"> {apart(age)}</span>}
    </span>
  )
  const strong = ['no power'].includes(view.phase)
  const phase = (
    <span className={`text-xs ${strong ? 'font-semibold' : ''}`}>
      {view.off ? 'off the charger' : view.phase_said}
      {view.reports && <span className="soft font-normal"> · reports itself</span>}
      {view.charging === false && view.placed_s !== null && !view.off && <b>; the phone says that it does not charge</b>}
    </span>
  )
  const marks = (
    <>
      {view.simulated && <span className="border-base-content border border-dashed px-1 text-[11px] whitespace-nowrap">stand-in</span>}
      {view.speed !== 1 && <span className="soft text-xs whitespace-nowrap">{view.speed.toFixed(0)} ×</span>}
    </>
  )
  if (!tall)
    return (
      <div className="flex min-w-0 items-center gap-3">
        <button className="w-9 shrink-0 cursor-pointer text-left text-2xl font-bold" aria-pressed={chosen} onClick={onChoose}>
          {view.name}
        </button>
        <div className="min-w-0 grow leading-tight">
          <div className="truncate text-sm font-semibold" title={`${view.phone}, ${view.chain}`}>
            {view.phone} <span className="soft font-normal">{view.chain}</span>
          </div>
          <div className="flex items-baseline gap-2.5 text-sm">
            {percent}
            {figures}
          </div>
        </div>
      </div>
    )
  return (
    <div className="grid min-w-0 grid-cols-[42px_minmax(0,1fr)] gap-x-1">
      <button className="row-span-2 cursor-pointer text-left text-4xl leading-9 font-bold" aria-pressed={chosen} onClick={onChoose}>
        {view.name}
      </button>
      <div className="flex min-w-0 items-baseline gap-2 font-semibold">
        <span className="truncate" title={view.label}>
          {view.phone}
        </span>
        {marks}
      </div>
      <div className="soft truncate text-sm" title={view.chain}>
        {view.chain}
      </div>
      <div className="col-span-2 mt-1 flex flex-wrap items-baseline gap-x-4 gap-y-0.5 text-lg">
        {percent}
        {figures}
      </div>
      <div className="col-span-2 mt-0.5">{phase}</div>
    </div>
  )
}
