import type { Lane } from '../../api/bench'
import { nowX, type Axis } from './axis'
import { LaneActions } from './LaneActions'
import { LaneFacts } from './LaneFacts'
import { DueChip, LaneTrack } from './LaneTrack'
import { SettingSteps } from './SettingSteps'

interface Props {
  lane: Lane
  axis: Axis
  /** Whether the facts stand over the ribbon. */
  narrow: boolean
  tall: boolean
  chosen: boolean
  fullWatts: number
  onChoose: () => void
}

const ALARM = ['border-base-content', 'border-warning', 'border-error']

/** A lane: figures at the left, its track on the one clock, alarms under it; the steps of setting it before it runs. */
export function LaneRow({ lane, axis, narrow, tall, chosen, fullWatts, onChoose }: Props) {
  const { view } = lane
  const setting = view.state === 'setting'
  return (
    <section
      aria-label={`lane ${view.name}, ${view.label}`}
      data-lane={view.name}
      data-chosen={chosen || undefined}
      className={`border-base-300 grid ${narrow ? 'grid-cols-1 gap-y-2' : 'grid-cols-[270px_minmax(0,1fr)] gap-x-2'} border-t ${tall ? 'py-3' : 'min-h-14 py-1.5'} ${chosen ? 'bg-base-200' : ''}`}
    >
      <div className={`min-w-0 pl-2 ${narrow ? `relative z-10 ${chosen ? 'bg-base-200' : 'bg-base-100'}` : ''}`}>
        <LaneFacts lane={lane} tall={tall} chosen={chosen} onChoose={onChoose} />
      </div>
      <div className="relative min-w-0">
        {setting && tall ? (
          <SettingSteps lane={lane} />
        ) : setting ? (
          <div className="soft pt-2 text-sm">
            {view.phone_on ? 'A phone is on it already: choose the lane to go on' : `next: ${view.steps.find((s) => s.key === view.next_step)?.said ?? 'ready'}`}
          </div>
        ) : (
          <>
            <LaneTrack lane={lane} axis={axis} tall={tall} fullWatts={fullWatts} />
            <div className="absolute top-0 whitespace-nowrap" style={{ left: Math.min(nowX(axis) + 10, axis.width - 150) }}>
              <DueChip lane={lane} />
            </div>
          </>
        )}
        {view.alarms.map((a) => (
          <div key={a.key} className={`bg-accent text-accent-content relative z-10 mt-1 mr-2 inline-block border-l-4 px-3 py-1 text-sm ${ALARM[a.level] ?? ''}`}>
            <b>{a.seen}.</b> {a.do}
          </div>
        ))}
        {chosen && <LaneActions lane={lane} />}
      </div>
    </section>
  )
}
