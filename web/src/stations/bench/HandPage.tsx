import { useEffect, useMemo, useState, type ReactNode } from 'react'
import { Delete } from 'lucide-react'
import { useParams } from 'react-router'
import { laneNow, LiveBench, type Lane } from '../../api/bench'
import { POSITIONS } from '../../api/rules'
import { Outbox } from '../../api/outbox'
import { PhoneReporter, unable } from '../../api/phoneReporter'
import { useBench, useSecond, useWaiting } from '../../api/useBench'
import { degreesText } from '../../ui/format'
import { useSettings } from '../../reader/settings'
import { apart } from '../../ui/times'
import { DarkPage, Reporting, useReporting } from './Reporting'

const DELETE = 'delete'
const KINDS = ['%', '°', 'W', 'V', 'A', 'note'] as const
type What = (typeof KINDS)[number]
const DIGITS = 4

/** A lane in the hand, or on the charger itself: there it reports its level, on a dark page if one likes. */
export function HandPage() {
  const { token = '' } = useParams()
  const reporter = useMemo(() => new PhoneReporter(token), [token])
  const key = `jaunecharge.reports.${token}`
  const [answer, setAnswer] = useState(() => localStorage.getItem(key))
  const dark = answer === 'dark'
  const reports = (answer === 'yes' || dark) && !unable()
  const { state } = useReporting(reporter)
  useEffect(() => {
    if (!reports) return
    void reporter.start()
    return () => {
      reporter.stop()
    }
  }, [reporter, reports])
  const decide = (next: 'yes' | 'no' | 'dark') => {
    localStorage.setItem(key, next)
    setAnswer(next)
    if (next !== 'no') reporter.show(next === 'dark' ? 'dark page' : 'on')
    else if (reports) reporter.show('off')
  }
  if (dark && (state === 'on' || state === 'starting')) return <DarkPage reporter={reporter} onLeave={() => { decide('yes') }} />
  return (
    <Hand token={token}>
      <Reporting
        reporter={reporter}
        token={token}
        answered={answer !== null}
        onAnswer={(yes) => { decide(yes ? 'yes' : 'no') }}
        onDark={() => { decide('dark') }}
      />
    </Hand>
  )
}

/** One large keypad, the last value and its age on top, one key to log, undo beside it. */
function Hand({ token, children }: { token: string; children: ReactNode }) {
  const live = useMemo(() => new LiveBench({ all: `/api/hand/${token}`, events: `/api/hand/${token}/events` }), [token])
  const box = useMemo(() => new Outbox(`/api/hand/${token}/lines`, `jaunecharge.hand.${token}`), [token])
  const bench = useBench(live)
  const lane = bench.lanes[0]
  useSecond()
  if (!bench.known) return <p className="p-6 text-lg">{bench.reached ? 'Looking for the lane …' : 'The bench does not answer. Is this phone on its network?'}</p>
  if (!lane)
    return (
      <div className="p-6 text-lg">
        <p className="font-semibold">This lane has ended.</p>
        <p className="mt-2">Put charge limits and optimised charging back on.</p>
      </div>
    )
  return (
    <Keypad lane={lane} box={box} reached={bench.reached && !bench.away}>
      {children}
    </Keypad>
  )
}

function Keypad({ lane, box, reached, children }: { lane: Lane; box: Outbox; reached: boolean; children: ReactNode }) {
  const { degrees, toggleDegrees } = useSettings()
  const { view } = lane
  const [what, setWhat] = useState<What>('%')
  const [place, setPlace] = useState('back')
  const [typed, setTyped] = useState('')
  const [words, setSaid] = useState('')
  const lines = useWaiting(box)
  useEffect(
    () =>
      box.hear((arrived) => {
        setSaid(`logged: ${arrived.said}`)
      }),
    [box],
  )
  const send = (line: string, sure = false) => {
    setSaid('')
    box.log(line, sure, degrees === 'F')
  }
  const unit = what === '°' ? `${degrees.toLowerCase()} ${place}` : what === '%' ? '' : what.toLowerCase()
  const log = () => {
    send(what === 'note' ? `note ${typed.trim()}` : `${typed}${unit}`)
    setTyped('')
  }
  const press = (key: string) => {
    setSaid('')
    if (key === DELETE) setTyped(typed.slice(0, -1))
    else if (key === '.') setTyped(typed.includes('.') || what === '%' ? typed : `${typed || '0'}.`)
    else if (typed.replace('.', '').length < DIGITS) setTyped(typed + key)
  }
  const choose = (next: What) => {
    setWhat(next)
    setTyped('')
    setSaid('')
  }
  const due = view.due.at_s === null ? null : view.due.at_s - laneNow(lane)
  const age = view.percent_s === null ? '' : `${apart(laneNow(lane) - view.percent_s)} ago`
  const held = lines.filter((l) => l.state === 'held')
  const going = lines.filter((l) => l.state !== 'held')
  const small = 'border-base-300 h-12 border text-sm'
  return (
    <main className="bg-base-100 mx-auto flex h-dvh max-w-[480px] flex-col px-3 pt-2 pb-3">
      <header className="flex items-baseline gap-3">
        <b className="text-4xl">{view.name}</b>
        <div className="min-w-0 grow leading-tight">
          <div className="truncate font-semibold">{view.phone}</div>
          <div className="soft truncate text-xs">{view.chain}</div>
        </div>
        <div className="text-right leading-tight">
          <div className="text-3xl font-medium">
            {view.percent === null ? '–' : view.percent.toFixed(0)}
            <span className="text-base"> %</span>
          </div>
          <div className="soft text-xs">{age}</div>
        </div>
      </header>
      <div className="mt-1 flex items-center gap-3 text-sm">
        {view.watts !== null && <span className="reading">{view.watts.toFixed(1)} W</span>}
        {view.hottest_c !== null && (
          <span className="reading">
            {degreesText(view.hottest_c, degrees)} °{degrees}
          </span>
        )}
        <span className="soft truncate">{view.phase_said}</span>
        {due !== null && (
          <span className={`ml-auto whitespace-nowrap ${view.due.state === 'late' ? 'bg-neutral text-neutral-content px-1.5 font-semibold' : view.due.state === 'due' ? 'font-semibold' : 'soft'}`}>
            {view.due.state === 'late' ? `late by ${apart(due)}` : view.due.state === 'due' ? 'check-in now' : `check-in in ${apart(due)}`}
          </span>
        )}
      </div>
      {children}
      {view.alarms.map((a) => (
        <p key={a.key} role="alert" className={`bg-accent text-accent-content mt-1 border-l-4 px-2 py-1 text-sm ${a.level > 1 ? 'border-error' : 'border-warning'}`}>
          <b>{a.seen}.</b> {a.do}
        </p>
      ))}
      <div className="grow" />
      {held.map((l) => (
        <div key={l.id} role="alert" className="border-base-content bg-base-200 mt-1 border-l-4 px-2 py-1.5 text-sm">
          <p>
            <b className="reading">{l.line}</b>: {l.asked?.said}
          </p>
          <div className="mt-1 grid auto-cols-fr grid-flow-col gap-1">
            {l.asked?.instead && (
              <button className="bg-neutral text-neutral-content h-12 font-semibold" onClick={() => { box.confirm(l.id, l.asked?.instead?.line) }}>
                {l.asked.instead.said}
              </button>
            )}
            {l.asked?.sure && (
              <button className="border-base-content h-12 border font-semibold" onClick={() => { box.confirm(l.id) }}>
                {l.asked.instead ? l.asked.instead.keep : 'Log it'}
              </button>
            )}
            {!l.asked?.instead && (
              <button className="border-base-300 h-12 border" onClick={() => { box.drop(l.id) }}>
                Drop it
              </button>
            )}
          </div>
        </div>
      ))}
      <div className="flex min-h-16 flex-col items-center justify-center" role="status">
        {what !== 'note' && (
          <div className="reading text-5xl">
            {typed || <span className="soft">–</span>}
            <span className="soft text-2xl"> {what === '°' ? `°${degrees}` : what}</span>
          </div>
        )}
        <div className="soft mt-1 min-h-5 text-center text-sm">
          {going.length > 0 ? (
            <span className={going.some((l) => l.state === 'waits') ? 'bg-primary text-primary-content px-2 font-semibold' : ''}>
              {going.some((l) => l.state === 'waits') ? `${String(going.length)} wait to be sent` : `sending ${going.map((l) => l.line).join(', ')} …`}
            </span>
          ) : (
            words || (reached ? '' : 'the bench does not answer: what you log is kept here')
          )}
        </div>
      </div>
      <div role="tablist" aria-label="what is logged" className="grid grid-cols-6 gap-1">
        {KINDS.map((w) => (
          <button
            key={w}
            role="tab"
            aria-selected={what === w}
            className={`h-12 border ${what === w ? 'border-base-content bg-base-200 font-semibold' : 'border-base-300'} ${w === 'note' ? 'text-sm' : 'text-lg'}`}
            onClick={() => {
              choose(w)
            }}
          >
            {w === '°' ? `°${degrees}` : w}
          </button>
        ))}
      </div>
      {what === '°' && (
        <div className="mt-1 grid grid-cols-6 gap-1">
          <div role="radiogroup" aria-label="where" className="col-span-5 grid grid-cols-5 gap-1">
            {POSITIONS.map((p) => (
              <button
                key={p}
                role="radio"
                aria-checked={place === p}
                className={`h-12 border text-sm ${place === p ? 'border-base-content bg-base-200 font-semibold' : 'border-base-300'}`}
                onClick={() => {
                  setPlace(p)
                }}
              >
                {p}
              </button>
            ))}
          </div>
          <button className={small} aria-label={`switch to °${degrees === 'C' ? 'F' : 'C'}`} onClick={toggleDegrees}>
            in °{degrees === 'C' ? 'F' : 'C'}
          </button>
        </div>
      )}
      {what === 'note' ? (
        <textarea
          className="textarea mt-1 h-40 w-full text-lg"
          aria-label="note"
          placeholder="what you see or did"
          maxLength={1000}
          value={typed}
          onChange={(e) => {
            setTyped(e.target.value.replaceAll('\n', ' '))
          }}
        />
      ) : (
        <div className="mt-1 grid grid-cols-3 gap-1">
          {['1', '2', '3', '4', '5', '6', '7', '8', '9', '.', '0', DELETE].map((key) => (
            <button
              key={key}
              className="border-base-300 active:bg-base-200 h-13 border text-2xl disabled:opacity-30"
              aria-label={key === DELETE ? 'delete a figure' : key}
              disabled={key === '.' && what === '%'}
              onClick={() => {
                press(key)
              }}
            >
              {key === DELETE ? <Delete className="mx-auto" aria-hidden="true" /> : key}
            </button>
          ))}
        </div>
      )}
      <div className="mt-1 grid grid-cols-[1fr_2fr] gap-1">
        <button className="border-base-300 h-14 border text-lg" onClick={() => { send('u', true) }}>
          Undo
        </button>
        <button
          className="bg-primary text-primary-content h-14 text-xl font-semibold disabled:opacity-40"
          disabled={what === 'note' ? !typed.trim() : !/\d/.test(typed)}
          onClick={log}
        >
          Log
        </button>
      </div>
      <div className="mt-1 grid grid-cols-4 gap-1">
        {view.placed_s === null ? (
          <button className={`${small} col-span-2`} onClick={() => { send('placed', true) }}>
            Placed: t = 0
          </button>
        ) : (
          <>
            <button className={small} onClick={() => { send(view.off ? 'on' : 'off', true) }}>
              {view.off ? 'Back on' : 'Taken off'}
            </button>
            <button className={small} onClick={() => { send('no charge', true) }}>
              Not charging
            </button>
          </>
        )}
        <button className={small} onClick={() => { send('light on', true) }}>
          Light on
        </button>
        <button className={small} onClick={() => { send('light off', true) }}>
          Light off
        </button>
      </div>
    </main>
  )
}
