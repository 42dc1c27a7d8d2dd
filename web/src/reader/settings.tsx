import { useQueryClient } from '@tanstack/react-query'
import { createContext, useContext, useEffect, useMemo, useRef, useState, type ReactNode } from 'react'

export type Degrees = 'C' | 'F'
export type Theme = 'day' | 'night'

interface Settings {
  degrees: Degrees
  theme: Theme
  name: string
  toggleDegrees: () => void
  toggleTheme: () => void
  setName: (name: string) => void
}

const Context = createContext<Settings | null>(null)
const stored = (key: string) => localStorage.getItem(`jaunecharge.${key}`) ?? ''

/** The name that the person gave once, for notes and corrections. */
export const storedName = () => stored('name')
/** The unit in which this person reads temperatures. */
export const storedDegrees = (): Degrees => (stored('degrees') === 'F' ? 'F' : 'C')

function useStored(key: string, fallback: string): [string, (value: string) => void] {
  const [value, setValue] = useState(() => stored(key) || fallback)
  return [
    value,
    (next) => {
      localStorage.setItem(`jaunecharge.${key}`, next)
      setValue(next)
    },
  ]
}

/** Settings of this person on this machine: °C or °F, day or night, a name. */
export function SettingsProvider({ children }: { children: ReactNode }) {
  const dark = window.matchMedia('(prefers-color-scheme: dark)').matches
  const [degrees, setDegrees] = useStored('degrees', 'C')
  const [theme, setTheme] = useStored('theme', dark ? 'night' : 'day')
  const [name, setName] = useStored('name', '')
  useEffect(() => {
    document.documentElement.dataset.theme = theme
  }, [theme])
  const queries = useQueryClient()
  const shown = useRef(degrees)
  useEffect(() => {
    // What the application composed is read anew in the other unit.
    if (shown.current !== degrees) void queries.invalidateQueries()
    shown.current = degrees
  }, [degrees, queries])
  const settings = useMemo<Settings>(
    () => ({
      degrees: degrees === 'F' ? 'F' : 'C',
      theme: theme === 'night' ? 'night' : 'day',
      name,
      toggleDegrees: () => {
        setDegrees(degrees === 'F' ? 'C' : 'F')
      },
      toggleTheme: () => {
        setTheme(theme === 'night' ? 'day' : 'night')
      },
      setName,
    }),
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the setters only write what they are given
    [degrees, theme, name],
  )
  return <Context value={settings}>{children}</Context>
}

export function useSettings(): Settings {
  const settings = useContext(Context)
  if (!settings) throw new Error('SettingsProvider is missing')
  return settings
}
