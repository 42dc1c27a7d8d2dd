import type { Plan, Slot } from '../../api/usePlans'
import { duration } from '../../ui/format'
import { clockAt, dayAt } from '../../ui/times'
import { useNarrow } from '../../ui/useNarrow'
import { Wide } from '../../ui/Wide'

interface Props {
  plan: Plan
  chosen: string | null
  onChoose: (id: string | null) => void
}

/** The schedule as a plain list, in the order of time. */
export function PlanList({ plan, chosen, onChoose }: Props) {
  const zone = plan.wishes.zone ?? 'UTC'
  const first = (s: Slot) => new Date(s.start ?? plan.now).getTime()
  const slots = [...plan.slots].sort((a, b) => first(a) - first(b))
  if (useNarrow()) return <PlanCards slots={slots} zone={zone} chosen={chosen} onChoose={onChoose} />
  return (
    <Wide least={38} className="table-sm mt-2 table" aria-label="schedule">
      <thead className="text-secondary">
        <tr>
          <th>day</th>
          <th>drain from</th>
          <th>start</th>
          <th>end</th>
          <th>phone</th>
          <th>on</th>
          <th className="text-right">expected</th>
          <th>state</th>
        </tr>
      </thead>
      <tbody>
        {slots.map((s) => (
          <tr key={s.id} className={chosen === s.id ? 'bg-base-200' : ''}>
            <td>{s.start && dayAt(s.start, zone)}</td>
            <td className="tabular-nums">{s.drain_start ? drainText(s, zone) : 'no drain'}</td>
            <td className="tabular-nums">{s.start && clockAt(s.start, zone)}</td>
            <td className="tabular-nums">{s.end && clockAt(s.end, zone)}</td>
            <td>{s.phone}</td>
            <td>
              <button
                className="cursor-pointer text-left font-semibold underline-offset-2 hover:underline"
                aria-pressed={chosen === s.id}
                onClick={() => {
                  onChoose(chosen === s.id ? null : s.id)
                }}
              >
                {s.said}
              </button>
              {s.closing && <span className="soft"> again, for drift</span>}
            </td>
            <td className="text-right tabular-nums">{duration(s.minutes)}</td>
            <td>
              {s.state}
              {s.void_reason && <span className="soft">: {s.void_reason}</span>}
              {s.late_min > 0 && <span className="text-warning"> · {duration(s.late_min)} late</span>}
            </td>
          </tr>
        ))}
      </tbody>
    </Wide>
  )
}

/** The same on a narrow screen: a card a run, under its day. */
function PlanCards({ slots, zone, chosen, onChoose }: { slots: Slot[]; zone: string } & Omit<Props, 'plan'>) {
  return (
    <ol aria-label="schedule" className="mt-2">
      {slots.map((s, i) => {
        const day = s.start ? dayAt(s.start, zone) : 'not scheduled'
        const before = slots[i - 1]
        const first = !before || (before.start ? dayAt(before.start, zone) : 'not scheduled') !== day
        return (
          <li key={s.id}>
            {first && <h2 className="border-base-300 border-b pt-3 pb-1 text-sm font-semibold">{day}</h2>}
            <button
              className={`border-base-300 block w-full cursor-pointer border-b py-2.5 text-left leading-snug ${chosen === s.id ? 'bg-base-200' : ''}`}
              aria-pressed={chosen === s.id}
              onClick={() => {
                onChoose(chosen === s.id ? null : s.id)
              }}
            >
              <span className="flex items-baseline gap-2">
                <b className="min-w-0 font-semibold">
                  {s.phone} on {s.said}
                  {s.closing && <span className="soft font-normal"> again, for drift</span>}
                </b>
                <span className="ml-auto shrink-0 text-sm">{s.state}</span>
              </span>
              <span className="soft block text-sm">
                {s.start && s.end && `${clockAt(s.start, zone)} to ${clockAt(s.end, zone)}, `}
                {duration(s.minutes)}
                {s.drain_start && `; drain from ${drainText(s, zone)}`}
                {s.void_reason && `; ${s.void_reason}`}
                {s.late_min > 0 && <span className="text-warning"> · {duration(s.late_min)} late</span>}
              </span>
            </button>
          </li>
        )
      })}
    </ol>
  )
}

/** When the drain begins; with its day where that is another than the run's. */
function drainText(s: Slot, zone: string): string {
  if (!s.drain_start || !s.start) return ''
  const [own, run] = [dayAt(s.drain_start, zone), dayAt(s.start, zone)]
  return own === run ? clockAt(s.drain_start, zone) : `${clockAt(s.drain_start, zone)} the day before`
}
