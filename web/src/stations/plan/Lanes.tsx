import { useEffect, useRef, type KeyboardEvent } from 'react'
import type { Plan, Slot } from '../../api/usePlans'
import { outline, ticks, type Frame } from '../../ribbon/geometry'
import { useWidth } from '../../ui/useWidth'
import { duration } from '../../ui/format'
import { BOTTOM_PX, cut, frameOf, hours, labelRooms, LANE_PX, lanesOf, nights, pxOf, TOP_PX, xAt, type TimeFrame } from './lanes'
import { clockAt, dayAt, momentAt } from '../../ui/times'

const NAME_PX = 132
const HALF_PX = 23
const MIDDLE_PX = 34

interface Props {
  plan: Plan
  chosen: string | null
  onChoose: (id: string | null) => void
}

/** A lane a phone over the days: each run as the outline of what it is expected to look like. */
export function Lanes({ plan, chosen, onChoose }: Props) {
  const [ref, room] = useWidth()
  const scroll = useRef<HTMLDivElement>(null)
  const zone = plan.wishes.zone ?? 'UTC'
  const lanes = lanesOf(plan)
  const frame = frameOf(plan, Math.max(300, room - NAME_PX - 8))
  const height = TOP_PX + lanes.length * LANE_PX + BOTTOM_PX
  const fullWatts = Math.max(...plan.slots.flatMap((s) => s.ribbon.watts.map((w) => w ?? 0)), 1)
  const nowX = xAt(plan.now, frame)
  useEffect(() => {
    const box = scroll.current
    if (box && box.scrollWidth > box.clientWidth) box.scrollLeft = nowX - box.clientWidth / 2
  }, [frame.width]) // eslint-disable-line react-hooks/exhaustive-deps -- only when the scale changes, not every minute
  const move = (event: KeyboardEvent) => {
    const by: Record<string, [number, number]> = { ArrowRight: [0, 1], ArrowLeft: [0, -1], ArrowDown: [1, 0], ArrowUp: [-1, 0] }
    const step = by[event.key]
    const here = (event.target as HTMLElement).dataset.slot
    if (!step || !here) return
    event.preventDefault()
    const lane = lanes.findIndex((l) => l.slots.some((s) => s.id === here))
    const place = lanes[lane]?.slots.findIndex((s) => s.id === here) ?? 0
    const next = lanes[lane + step[0]]?.slots
    const target = next?.[Math.min(next.length - 1, step[0] ? place : place + step[1])]
    if (target) event.currentTarget.querySelector<HTMLElement>(`[data-slot="${target.id}"]`)?.focus()
  }
  return (
    <div ref={ref} className="flex" role="group" aria-label="schedule, a lane a phone">
      <div className="shrink-0" style={{ width: NAME_PX, paddingTop: TOP_PX }}>
        {lanes.map((l) => (
          <div key={l.phone} style={{ height: LANE_PX }} className="flex flex-col justify-center pr-3 pb-6">
            <b className="truncate font-semibold" title={l.phone}>
              {l.phone}
            </b>
            <span className="soft text-xs">{leftOf(l.slots)}</span>
          </div>
        ))}
      </div>
      <div ref={scroll} className="min-w-0 flex-1 overflow-x-auto" tabIndex={-1}>
        {room > 0 && (
          <svg width={frame.width} height={height} className="block select-none" onKeyDown={move}>
            <defs>
              <pattern id="void" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
                <line x1="0" x2="0" y1="0" y2="6" className="stroke-base-content/60" strokeWidth="1.4" />
              </pattern>
            </defs>
            {nights(plan, frame).map((n) => (
              <rect key={n.x} x={n.x} width={n.width} y={TOP_PX - 4} height={height - TOP_PX - BOTTOM_PX + 4} className="fill-base-300/55" />
            ))}
            {plan.days.map((d) => (
              <text key={d} x={xAt(d, frame) + pxOf(8 * 60, frame)} y={12} className="fill-base-content text-[12px] font-semibold">
                {dayAt(d, zone)}
              </text>
            ))}
            {hours(plan, frame).map((h) => (
              <g key={h.x}>
                <line x1={h.x} x2={h.x} y1={TOP_PX - 4} y2={height - BOTTOM_PX} className="stroke-base-300" />
                <text x={h.x} y={height - 5} textAnchor="middle" className="fill-secondary text-[11px]">
                  {h.hour}
                </text>
              </g>
            ))}
            <rect x={nowX - 5} width={10} y={TOP_PX - 4} height={height - TOP_PX - BOTTOM_PX + 4} className="fill-primary/60" />
            {lanes.map((l, i) => {
              const rooms = labelRooms(l.slots, frame)
              return (
                <g key={l.phone} transform={`translate(0 ${String(TOP_PX + i * LANE_PX)})`}>
                  {l.slots.map((s, j) => (
                    <SlotBox
                      key={s.id}
                      slot={s}
                      frame={frame}
                      zone={zone}
                      fullWatts={fullWatts}
                      room={rooms[j] ?? 0}
                      first={i === 0 && j === 0}
                      chosen={chosen === s.id}
                      onChoose={() => {
                        onChoose(chosen === s.id ? null : s.id)
                      }}
                    />
                  ))}
                </g>
              )
            })}
            <line x1={nowX} x2={nowX} y1={TOP_PX - 8} y2={height - BOTTOM_PX} className="stroke-base-content pointer-events-none" strokeWidth="2" />
          </svg>
        )}
      </div>
    </div>
  )
}

function leftOf(slots: Slot[]): string {
  const left = slots.filter((s) => !['done', 'void', 'let go'].includes(s.state)).length
  const done = slots.filter((s) => s.state === 'done').length
  return left ? `${String(left)} of ${String(left + done)} to go` : 'all done'
}

interface BoxProps {
  slot: Slot
  frame: TimeFrame
  zone: string
  fullWatts: number
  room: number
  first: boolean
  chosen: boolean
  onChoose: () => void
}

/** One run: its drain dotted, its ribbon, its cool-down a tail. */
function SlotBox({ slot, frame, zone, fullWatts, room, first, chosen, onChoose }: BoxProps) {
  if (!slot.start || !slot.end) return null
  const x = xAt(slot.start, frame)
  const width = Math.max(3, xAt(slot.end, frame) - x)
  const drain = slot.drain_start && slot.drain_end ? [xAt(slot.drain_start, frame), xAt(slot.drain_end, frame)] : null
  const cool = slot.cool_end ? xAt(slot.cool_end, frame) : null
  const band: Frame = { left: x, width, origin: 0, minutes: slot.ribbon.minutes, middle: MIDDLE_PX, halfHeight: HALF_PX, fullWatts }
  const shape = outline(slot.ribbon, band)
  const off = slot.state === 'void' || slot.state === 'let go'
  const from = drain && !off ? Math.min(x, drain[0] ?? x) : x - 2
  const [on = '', ...rest] = slot.said.split(', ')
  return (
    <>
    <g
      role="button"
      tabIndex={first ? 0 : -1}
      data-slot={slot.id}
      aria-pressed={chosen}
      aria-label={labelled(slot, zone)}
      className="group cursor-pointer outline-none"
      onClick={onChoose}
      onKeyDown={(e) => {
        if (e.key === 'Enter' || e.key === ' ') {
          e.preventDefault()
          onChoose()
        }
      }}
    >
      <title>{labelled(slot, zone)}</title>
      <rect x={from} width={Math.max(x + width, cool ?? 0) - from} y={4} height={64} fill="transparent" />
      <rect
        x={x - 4}
        width={width + 8}
        y={4}
        height={60}
        rx="3"
        strokeWidth="2"
        strokeDasharray="4 3"
        className="stroke-base-content fill-none opacity-0 group-focus-visible:opacity-100"
      />
      {chosen && <rect x={x - 4} width={width + 8} y={4} height={60} className="stroke-base-content fill-none" strokeWidth="2" rx="3" />}
      {drain && !off && (
        <rect
          x={drain[0]}
          width={Math.max(2, (drain[1] ?? 0) - (drain[0] ?? 0))}
          y={MIDDLE_PX - 7}
          height={14}
          className={`stroke-secondary ${slot.state === 'draining' ? 'fill-primary' : 'fill-none'}`}
          strokeDasharray="2 2.5"
        />
      )}
      {cool !== null && !off && (
        <line x1={x + width} x2={cool} y1={MIDDLE_PX} y2={MIDDLE_PX} className="stroke-secondary" strokeWidth="4" />
      )}
      <path d={shape} className={`stroke-base-content ${FILLS[slot.state]}`} strokeWidth={slot.closing ? 1.8 : 1.1} strokeDasharray={slot.state === 'let go' ? '3 4' : undefined} />
      {slot.state === 'void' && <path d={shape} fill="url(#void)" />}
      {ticks(slot.ribbon, band)
        .filter((t) => t.label)
        .map((t) => (
          <line key={t.percent} x1={t.x} x2={t.x} y1={MIDDLE_PX - t.half} y2={MIDDLE_PX + t.half} className="stroke-base-content" strokeWidth="0.8" />
        ))}
    </g>
      <g aria-hidden className="cursor-pointer" onClick={onChoose}>
      <text x={x} y={76} className="fill-base-content text-[11px]">
        {cut(on, room)}
      </text>
      {slot.state === 'let go' && (
        <text x={x} y={88} className="fill-secondary text-[10.5px]">
          {cut('let go', room)}
        </text>
      )}
      {rest.length > 0 && !slot.closing && !off && (
        <text x={x} y={88} className="fill-secondary text-[10.5px]">
          {cut(rest.join(', '), room)}
        </text>
      )}
      {slot.state === 'void' && (
        <text x={x} y={88} className="fill-secondary text-[10.5px]">
          {cut(`void: ${slot.void_reason}`, Math.max(room, 90))}
        </text>
      )}
      {slot.closing && !off && (
        <text x={x} y={88} className="fill-secondary text-[10.5px]">
          {cut([...rest, 'again, for drift'].join(', '), room)}
        </text>
      )}
      </g>
    </>
  )
}

const FILLS: Record<Slot['state'], string> = {
  planned: 'fill-base-100',
  draining: 'fill-base-100',
  drained: 'fill-base-100',
  running: 'fill-primary',
  done: 'fill-base-300',
  void: 'fill-base-100',
  'let go': 'fill-none',
}

const labelled = (s: Slot, zone: string) =>
  [
    s.label,
    s.state,
    s.start && `${momentAt(s.start, zone)} to ${s.end ? clockAt(s.end, zone) : ''}`,
    `${duration(s.minutes)} planned`,
    s.drain_start && s.state === 'planned' && `drain from ${momentAt(s.drain_start, zone)}`,
    s.void_reason,
  ]
    .filter(Boolean)
    .join(', ')
