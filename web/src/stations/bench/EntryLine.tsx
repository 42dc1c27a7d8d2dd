import { useCallback, useEffect, useRef, useState } from 'react'
import { echoOf, type Echo } from '../../api/bench'
import { outbox, type Arrived, type Outbox } from '../../api/outbox'
import { useWaiting } from '../../api/useBench'
import { useSettings } from '../../reader/settings'
import { OnTheWay } from './OnTheWay'

const REST_MS = 120

interface Props {
  box?: Outbox
  echoPath?: string
  last: string
  onLogged: (arrived: Arrived) => void
  onHelp: () => void
}

/** The entry line: says what it understood before Enter, and logs to any lane. Enter never waits: a line leaves the
 * field at once, is shown until it was logged, and comes back where something about it is to be asked. */
export function EntryLine({ box = outbox, echoPath = '/api/bench/echo', last, onLogged, onHelp }: Props) {
  const { degrees } = useSettings()
  const field = useRef<HTMLInputElement>(null)
  const [typed, setTyped] = useState('')
  const [answer, setAnswer] = useState<{ line: string; echo: Echo } | null>(null)
  const lines = useWaiting(box)
  const fahrenheit = degrees === 'F'
  // An answer to what was typed before says nothing about what stands there now.
  const echo = answer?.line === typed ? answer.echo : null

  useEffect(() => box.hear(onLogged), [box, onLogged])

  useEffect(() => {
    if (!typed.trim()) return
    const stop = new AbortController()
    const timer = setTimeout(() => {
      echoOf(typed, fahrenheit, echoPath, stop.signal)
        .then((found) => {
          setAnswer({ line: typed, echo: found })
        })
        .catch(() => {
          // Without an answer there is no echo; the line can be logged all the same, and waits.
        })
    }, REST_MS)
    return () => {
      clearTimeout(timer)
      stop.abort()
    }
  }, [typed, fahrenheit, echoPath])

  const log = () => {
    if (!typed.trim()) {
      // Enter on an empty line logs what is asked about, as it stands.
      const asked = lines.find((l) => l.state === 'held' && l.asked?.sure)
      if (asked) box.confirm(asked.id)
      return
    }
    if (echo && !echo.understood) return
    box.log(typed, false, fahrenheit)
    setTyped('')
  }
  const edit = useCallback((line: string) => {
    setTyped(line)
    field.current?.focus()
  }, [])
  return (
    <>
      <OnTheWay box={box} onEdit={edit} />
      <form
        className="border-base-300 flex min-h-14 items-center gap-x-4 border-t bg-[#1c1f26] px-5 py-2 text-[#faf8f1] max-sm:flex-wrap max-sm:px-3"
        onSubmit={(e) => {
          e.preventDefault()
          log()
        }}
      >
        <kbd className="text-primary reading text-xl">/</kbd>
        <input
          ref={field}
          data-entry-line
          aria-label="entry line"
          aria-describedby="echo"
          className="reading caret-primary placeholder:text-[#faf8f1]/60 w-56 bg-transparent text-xl outline-none max-sm:min-h-11 max-sm:grow"
          placeholder="a 47"
          autoComplete="off"
          autoCapitalize="off"
          spellCheck={false}
          value={typed}
          onChange={(e) => {
            setTyped(e.target.value)
          }}
          onKeyDown={(e) => {
            if (e.key === 'Escape') {
              setTyped('')
              e.currentTarget.blur()
            }
            if (e.key === '?' && typed === '') {
              e.preventDefault()
              onHelp()
            }
          }}
        />
        <div id="echo" role="status" className="min-w-0 grow text-sm">
          <EchoText echo={typed.trim() ? echo : null} onHelp={onHelp} />
        </div>
        {last && <span className="hidden max-w-72 truncate text-xs opacity-75 lg:block">last: {last}</span>}
      </form>
    </>
  )
}

function EchoText({ echo, onHelp }: { echo: Echo | null; onHelp: () => void }) {
  if (!echo)
    return (
      <span className="opacity-75">
        <span className="max-sm:sr-only">lane, then what you see: </span>47 · 41.2c · 9.02v 1.97a · note …{' '}
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
      {doubts.length > 0 ? <span className="text-primary"> · {doubts.join(' ')} Enter, and Enter again logs it</span> : ' · Enter logs it'}
    </span>
  )
}
