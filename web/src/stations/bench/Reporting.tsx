import { useState, useSyncExternalStore } from 'react'
import { unable, type PhoneReporter, type Reporting as Told } from '../../api/phoneReporter'
import { copyText } from '../../ui/copyText'
import { clockAt, ZONE } from '../../ui/times'

const big = 'border-base-300 h-12 border px-2 text-sm'
const clock = (at: Date) => clockAt(at.toISOString(), ZONE)

export const useReporting = (reporter: PhoneReporter): Told => useSyncExternalStore(reporter.subscribe, reporter.now)

interface Props {
  reporter: PhoneReporter
  token: string
  /** Whether it was asked already whether this is the phone on the charger. */
  answered: boolean
  onAnswer: (reports: boolean) => void
  onDark: () => void
}

/** Asks whether this is the phone on the charger, and shows how it reports its level; else how else it can be sent. */
export function Reporting({ reporter, token, answered, onAnswer, onDark }: Props) {
  const told = useReporting(reporter)
  const [asked, setAsked] = useState(false)
  const why = unable()
  if (told.state === 'on' || told.state === 'starting')
    return (
      <section aria-label="this phone reports" className="border-base-300 mt-1 border-y py-1.5 text-sm">
        <div className="flex items-center gap-2">
          <p className="min-w-0 grow leading-tight">
            <b>This phone reports its level.</b>
            <span className="soft block text-xs">
              {told.waiting > 0
                ? `${String(told.waiting)} kept until the bench answers`
                : told.lastAt
                  ? `${String(told.percent)} %${told.charging ? '' : ', not charging'} at ${clock(told.lastAt)}`
                  : 'sending …'}
            </span>
          </p>
          <button className={`${big} bg-neutral text-neutral-content font-semibold`} onClick={onDark}>
            Dark page
          </button>
          <button className={big} onClick={() => { onAnswer(false) }}>
            Stop
          </button>
        </div>
        {told.slept && (
          <p role="status" className="mt-1">
            The browser slept from {clock(told.slept[0])} to {clock(told.slept[1])}: a gap in the log. Keep the dark page open,
            and the phone’s screen on.
          </p>
        )}
        {told.refused && <p role="alert">Refused: {told.refused}</p>}
      </section>
    )
  if (told.state === 'elsewhere') return <p className="mt-1 text-sm">Another window of this phone reports its level.</p>
  if (asked || !answered)
    return (
      <section aria-label="the phone on the charger" className="border-base-300 mt-1 border-y py-1.5 text-sm">
        {asked && why ? (
          <Unable why={why} token={token} onDone={() => { setAsked(false); onAnswer(false) }} />
        ) : (
          <div className="flex items-center gap-2">
            <p className="min-w-0 grow font-semibold">Is this the phone on the charger?</p>
            <button
              className={`${big} border-base-content w-16 font-semibold`}
              onClick={() => {
                if (why) setAsked(true)
                else onAnswer(true)
              }}
            >
              Yes
            </button>
            <button className={`${big} w-16`} onClick={() => { setAsked(false); onAnswer(false) }}>
              No
            </button>
          </div>
        )}
      </section>
    )
  return (
    <button className="soft mt-0.5 self-start py-1 text-xs underline underline-offset-2" onClick={() => { setAsked(true) }}>
      Let the phone report its level
    </button>
  )
}

/** Why this browser tells no level, and the address to which anything else on the phone can send it. */
function Unable({ why, token, onDone }: { why: 'no TLS' | 'not told'; token: string; onDone: () => void }) {
  const address = `${window.location.origin}/api/hand/${token}/level`
  const line = `curl -d percent=47 ${address}`
  return (
    <div className="max-h-[46dvh] overflow-y-auto">
      <p>
        {why === 'no TLS'
          ? 'Browsers tell a page the battery’s level only over TLS: start the bench with --lan --tls auto.'
          : 'This browser tells no page the battery’s level; some never do.'}
      </p>
      <p className="mt-1">Any automation on the phone that can call an address can send it: POST, with percent=47.</p>
      <Copied what="address" text={address} />
      <Copied what="line for a terminal" text={line} />
      <p className="soft mt-1 text-xs">
        Besides: celsius, watts, or mv and ma of the battery; at, when it was read; id, so that sending twice counts once. The
        address is good until the lane ends. Keep it to yourself: whoever has it can log to this lane.
      </p>
      <button className={`${big} mt-1.5 w-full`} onClick={onDone}>
        Done
      </button>
    </div>
  )
}

function Copied({ what, text }: { what: string; text: string }) {
  const [copied, setCopied] = useState('')
  return (
    <div className="mt-1.5 flex items-center gap-2">
      <input
        className="input reading h-12 min-w-0 grow text-xs"
        aria-label={what}
        readOnly
        value={text}
        onFocus={(e) => {
          e.target.select()
        }}
      />
      <button
        className={big}
        onClick={() => {
          copyText(text).then(
            () => { setCopied('Copied') },
            () => { setCopied('Copy it by hand') },
          )
        }}
      >
        {copied || 'Copy'}
      </button>
    </div>
  )
}

/** A page that is dark and stands still, for a phone that must keep its screen on to report. */
export function DarkPage({ reporter, onLeave }: { reporter: PhoneReporter; onLeave: () => void }) {
  const told = useReporting(reporter)
  return (
    <button
      className="fixed inset-0 block w-full cursor-default bg-black text-center text-neutral-400"
      aria-label="leave the dark page"
      onClick={onLeave}
    >
      <span className="block text-4xl">{told.percent === null ? '–' : told.percent} %</span>
      <span className="mt-2 block text-sm">
        {told.waiting > 1 ? `${String(told.waiting)} kept until the bench answers` : 'reports its level'}
      </span>
      {told.slept && (
        <span className="mt-2 block text-sm">
          slept from {clock(told.slept[0])} to {clock(told.slept[1])}
        </span>
      )}
      {!('wakeLock' in navigator) && <span className="mt-2 block text-sm">set the phone’s screen to stay on</span>}
      <span className="mt-8 block text-xs">brightness down; touch to leave</span>
    </button>
  )
}
