import { useEffect, useRef, useState } from 'react'
import { echoOf, type Echo } from '../../api/bench'
import { outbox, type Outbox } from '../../api/outbox'
import { sayProblem } from '../../api/client'
import { useWaiting } from '../../api/useBench'
import { useSettings } from '../../ui/settings'

const REST_MS = 120

interface Props {
  box?: Outbox
  echoPath?: string
  last: string
  onLogged: (echo: Echo, run: string | null) => void
  onHelp: () => void
}

/** The entry line: says what it understood before Enter, asks about what is odd, and logs to any lane. */
export function EntryLine({ box = outbox, echoPath = '/api/bench/echo', last, onLogged, onHelp }: Props) {
  const { degrees } = useSettings()
  const field = useRef<HTMLInputElement>(null)
  const [typed, setTyped] = useState('')
  const [echo, setEcho] = useState<Echo | null>(null)
  const [asked, setAsked] = useState('')
  const [problem, setProblem] = useState('')
  const [busy, setBusy] = useState(false)
  const waiting = useWaiting(box)
  const fahrenheit = degrees === 'F'

  useEffect(() => {
    if (!typed.trim()) return
    const stop = new AbortController()
    const timer = setTimeout(() => {
      echoOf(typed, fahrenheit, echoPath, stop.signal)
        .then(setEcho)
        .catch(() => {
          // Without an answer there is no echo; the line can be logged all the same, and waits.
          if (!stop.signal.aborted) setEcho(null)
        })
    }, REST_MS)
    return () => {
      clearTimeout(timer)
      stop.abort()
    }
  }, [typed, fahrenheit, echoPath])

  const log = async () => {
    if (!typed.trim() || busy) return
    setBusy(true)
    const line = typed
    try {
      const outcome = await box.log(line, asked === line, fahrenheit)
      if (outcome.kind === 'refused') setProblem(sayProblem(outcome.problem))
      else if (outcome.kind === 'asked') {
        setEcho(outcome.logged.echo)
        if (outcome.logged.echo.understood) setAsked(line)
      } else {
        setTyped('')
        setEcho(null)
        setAsked('')
        setProblem('')
        if (outcome.kind === 'logged') onLogged(outcome.logged.echo, outcome.logged.run ?? null)
      }
    } finally {
      setBusy(false)
      field.current?.focus()
    }
  }
  return (
    <form
      className="border-base-300 flex min-h-14 items-center gap-4 border-t bg-[#1c1f26] px-5 py-2 text-[#faf8f1]"
      onSubmit={(e) => {
        e.preventDefault()
        void log()
      }}
    >
      <kbd className="text-primary reading text-xl">/</kbd>
      <input
        ref={field}
        data-entry-line
        aria-label="entry line"
        aria-describedby="echo"
        className="reading caret-primary placeholder:text-[#faf8f1]/60 w-56 bg-transparent text-xl outline-none"
        placeholder="a 47"
        autoComplete="off"
        autoCapitalize="off"
        spellCheck={false}
        value={typed}
        onChange={(e) => {
          setTyped(e.target.value)
          setProblem('')
        }}
        onKeyDown={(e) => {
          if (e.key === 'Escape') {
            setTyped('')
            setProblem('')
            e.currentTarget.blur()
          }
          if (e.key === '?' && typed === '') {
            e.preventDefault()
            onHelp()
          }
        }}
      />
      <div id="echo" role="status" className="min-w-0 grow text-sm">
        {problem ? <b>{problem}</b> : <EchoText echo={typed.trim() ? echo : null} asked={asked === typed} onHelp={onHelp} />}
      </div>
      {waiting.length > 0 ? (
        <span className="bg-primary text-primary-content px-2 py-0.5 text-xs font-semibold">{waiting.length} wait to be sent</span>
      ) : (
        last && <span className="hidden max-w-72 truncate text-xs opacity-75 lg:block">last: {last}</span>
      )}
    </form>
  )
}

function EchoText({ echo, asked, onHelp }: { echo: Echo | null; asked: boolean; onHelp: () => void }) {
  if (!echo)
    return (
      <span className="opacity-75">
        lane, then what you see: 47 · 41.2c · 9.02v 1.97a · note …{' '}
        <button type="button" className="underline underline-offset-2" onClick={onHelp}>
          all of it
        </button>
      </span>
    )
  if (!echo.understood)
    return (
      <span>
        <b>{echo.why}</b> · {echo.mend}
      </span>
    )
  const doubts = echo.doubts ?? []
  return (
    <span>
      lane {echo.lane} · <b>{(echo.said ?? []).join(', ')}</b>
      {echo.at && ` at ${echo.at}`}
      {echo.before && ` · ${echo.before}`}
      {doubts.length > 0 ? (
        <span className="text-primary"> · {doubts.join('. ')}. {asked ? 'Enter again logs it' : 'Enter asks once more'}</span>
      ) : (
        ' · Enter logs it'
      )}
    </span>
  )
}
