import { useEffect, useRef, useState } from 'react'
import type { Lane } from '../../api/bench'

const KEY = 'jaunecharge.sound'
const TONE_HZ: Record<string, number> = { due: 660, alarm: 880 }

/** Calls for check-ins and alarms: by sound, and by a notification of the browser where that is allowed. */
export function Calls({ lanes }: { lanes: Lane[] }) {
  const [sound, setSound] = useState(() => localStorage.getItem(KEY) === 'on')
  const told = useRef(new Set<string>())
  const first = useRef(true)
  const now = new Map<string, { kind: string; text: string }>()
  for (const { view } of lanes) {
    if ((view.due.state === 'due' || view.due.state === 'late') && view.due.at_s !== null)
      now.set(`${view.id} due ${String(Math.round(view.due.at_s))}`, { kind: 'due', text: `Check-in ${view.name}: ${view.phone}` })
    for (const a of view.alarms)
      if (a.level > 0) now.set(`${view.id} ${a.key} ${String(a.since_s)}`, { kind: 'alarm', text: `Lane ${view.name}: ${a.seen}. ${a.do}` })
  }
  const keys = [...now.keys()].join('|')
  useEffect(() => {
    const fresh = [...now].filter(([key]) => !told.current.has(key))
    told.current = new Set(now.keys())
    if (first.current && lanes.length > 0) {
      first.current = false
      return
    }
    for (const [, call] of fresh) {
      if (sound) tone(TONE_HZ[call.kind] ?? 660)
      if ('Notification' in window && Notification.permission === 'granted') new Notification('Jaunecharge', { body: call.text })
    }
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only what is new is called
  }, [keys])
  const alarms = [...now.values()].filter((c) => c.kind === 'alarm').map((c) => c.text)
  return (
    <>
      <span className="sr-only" role="alert">
        {alarms.join(' ')}
      </span>
      <label className="flex items-center gap-1.5 text-sm">
        <input
          type="checkbox"
          className="toggle toggle-xs"
          checked={sound}
          onChange={(e) => {
            setSound(e.target.checked)
            localStorage.setItem(KEY, e.target.checked ? 'on' : 'off')
            if (e.target.checked) {
              tone(660)
              if ('Notification' in window && Notification.permission === 'default') void Notification.requestPermission()
            }
          }}
        />
        remind me
      </label>
    </>
  )
}

function tone(hertz: number) {
  try {
    const context = new AudioContext()
    const source = context.createOscillator()
    const loud = context.createGain()
    source.frequency.value = hertz
    loud.gain.setValueAtTime(0.15, context.currentTime)
    loud.gain.exponentialRampToValueAtTime(0.001, context.currentTime + 0.5)
    source.connect(loud).connect(context.destination)
    source.start()
    source.stop(context.currentTime + 0.5)
    source.onended = () => void context.close()
  } catch {
    // No sound device: the page calls in writing.
  }
}
