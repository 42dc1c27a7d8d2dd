import { asProblem, sayProblem } from '../api/client'
import { createContext, useCallback, useContext, useEffect, useState, type ReactNode } from 'react'

interface Said {
  text: string
  undo?: () => Promise<unknown>
}

const Context = createContext<(said: Said) => void>(() => undefined)
const SHOWN_MS = 12_000

/** Says in one line what was done, with a way back where there is one. */
export function UndoProvider({ children }: { children: ReactNode }) {
  const [said, setSaid] = useState<Said | null>(null)
  useEffect(() => {
    if (!said) return
    const timer = setTimeout(() => {
      setSaid(null)
    }, SHOWN_MS)
    return () => {
      clearTimeout(timer)
    }
  }, [said])
  const say = useCallback((next: Said) => {
    setSaid(next)
  }, [])
  return (
    <Context value={say}>
      {children}
      <div role="status" className="fixed bottom-5 left-1/2 z-50 -translate-x-1/2">
        {said && (
          <div className="bg-neutral text-neutral-content flex items-center gap-4 rounded px-4 py-2 text-sm shadow">
            {said.text}
            {said.undo && (
              <button
                className="cursor-pointer font-semibold underline"
                onClick={() => {
                  setSaid(null)
                  said.undo?.().catch((error: unknown) => {
                    setSaid({ text: `It could not be undone: ${sayProblem(asProblem(error))}` })
                  })
                }}
              >
                Undo
              </button>
            )}
          </div>
        )}
      </div>
    </Context>
  )
}

export const useSay = () => useContext(Context)
