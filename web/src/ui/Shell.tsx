import { useMemo, useRef } from 'react'
import { Link, NavLink, Outlet, useLocation, useNavigate } from 'react-router'
import { LiveHeader } from './LiveHeader'
import { RereadingLine } from './RereadingLine'
import { useNetwork } from './SignInPage'
import { useSettings } from '../reader/settings'
import { ShownLast } from './ShownLast'
import { Troubles } from './Troubles'
import { useKeys } from './useKeys'
import { useNarrow } from './useNarrow'

const STATIONS = [
  { name: 'Shelf', key: '1', path: '/shelf' },
  { name: 'Plan', key: '2', path: '/plan' },
  { name: 'Bench', key: '3', path: '/bench' },
  { name: 'Runs', key: '4', path: '/runs' },
  { name: 'Versus', key: '5', path: '/versus' },
  { name: 'Packs', key: '6', path: '/packs' },
  { name: 'Findings', key: '7', path: '/findings' },
]

/** Stations in the bar at the bottom of a narrow screen; the rest stand under More. */
const IN_BAR = ['/shelf', '/plan', '/bench', '/runs', '/versus']
const BAR = 'max-sm:min-h-14 max-sm:min-w-0 max-sm:flex-1 max-sm:items-center max-sm:justify-center max-sm:px-0 max-sm:text-sm'

const KEYS: [string, string][] = [
  ['1', 'Shelf'],
  ['2', 'Plan'],
  ['3', 'Bench'],
  ['4', 'Runs'],
  ['5', 'Versus'],
  ['6', 'Packs'],
  ['7', 'Findings'],
  ['n', 'read a file'],
  ['f', 'filter the runs'],
  ['h', 'heat across runs, from the runs; or back'],
  ['x', 'choose the run that the arrows stand on; v compares the chosen ones'],
  ['a c o', 'in Versus: add runs, check a claim, another phone'],
  ['m', 'phones and chargers in one table, from Versus; or back'],
  ['k', 'all kit, from the shelf; s goes back'],
  ['r', 'rehearse the chain on the shelf'],
  ['p', 'new plan, from the plan'],
  ['q', 'new question, from the findings'],
  ['d', 'do what is next: in the plan, or on the chosen lane'],
  ['s', 'set up a lane, from the bench'],
  ['e', 'change the plan'],
  ['l', 'the plan as a list, or as lanes'],
  ['/', 'the entry line'],
  ['up down', 'from run to run, or lane to lane; Enter opens one'],
  ['left right', 'along the ribbon of a run, when it is focused'],
  ['Esc', 'leave a stretch, a zoom or a window'],
  ['t', 'day or night'],
  ['u', '°C or °F'],
  ['?', 'these keys'],
]

/** The rail, the header, and the station between them. */
export function Shell() {
  const { degrees, theme, name, toggleDegrees, toggleTheme, setName } = useSettings()
  const navigate = useNavigate()
  const network = useNetwork()
  const keys = useRef<HTMLDialogElement>(null)
  const more = useRef<HTMLDivElement>(null)
  const { pathname } = useLocation()
  const narrow = useNarrow()
  const elsewhere = !IN_BAR.some((path) => pathname.startsWith(path))
  useKeys(
    useMemo(
      () => ({
        '1': () => void navigate('/shelf'),
        '2': () => void navigate('/plan'),
        '3': () => void navigate('/bench'),
        '4': () => void navigate('/runs'),
        '5': () => void navigate('/versus'),
        '6': () => void navigate('/packs'),
        '7': () => void navigate('/findings'),
        n: () => void navigate('/runs/read'),
        t: toggleTheme,
        u: toggleDegrees,
        '?': () => keys.current?.showModal(),
      }),
      [navigate, toggleTheme, toggleDegrees],
    ),
  )
  return (
    <div className="grid h-dvh grid-cols-[118px_minmax(0,1fr)] grid-rows-[44px_minmax(0,1fr)] max-sm:grid-cols-1 max-sm:grid-rows-[auto_minmax(0,1fr)_auto]">
      <nav aria-label="stations" className="border-base-300 row-span-2 border-r max-sm:order-last max-sm:row-span-1 max-sm:flex max-sm:border-t max-sm:border-r-0 max-sm:pb-[env(safe-area-inset-bottom)] max-sm:[@media(max-height:480px)]:hidden">
        <div className="px-4 py-2.5 font-bold max-sm:sr-only">Jaunecharge</div>
        {STATIONS.map((s) => (
          <NavLink
            key={s.path}
            to={s.path}
            className={({ isActive }) =>
              `flex justify-between px-4 py-2 ${IN_BAR.includes(s.path) ? BAR : 'max-sm:hidden'} ${isActive ? 'bg-neutral text-neutral-content' : 'hover:bg-base-200'}`
            }
          >
            {s.name}
            <kbd className="font-sans text-xs opacity-75 max-sm:hidden">{s.key}</kbd>
          </NavLink>
        ))}
        <button className={`sm:hidden ${BAR} ${elsewhere ? 'bg-neutral text-neutral-content' : ''}`} popoverTarget="more-stations">
          More
        </button>
        <div
          id="more-stations"
          ref={more}
          popover="auto"
          className="bg-base-100 text-base-content border-base-content inset-auto right-2 bottom-16 w-56 border shadow-lg"
          aria-label="more"
        >
          {[...STATIONS.filter((s) => !IN_BAR.includes(s.path)), { name: 'Log', path: '/people' }, { name: 'Jobs', path: '/jobs' }].map((s) => (
            <NavLink key={s.path} to={s.path} className="border-base-300 block border-b px-4 py-3" onClick={() => more.current?.hidePopover()}>
              {s.name}
            </NavLink>
          ))}
          {narrow && !network.data?.name && (
            <div className="border-base-300 border-b px-4 py-2.5">
              <SignedBy name={name} onName={setName} />
            </div>
          )}
          <button className="border-base-300 block w-full border-b px-4 py-3 text-left" onClick={toggleDegrees}>
            Switch to °{degrees === 'C' ? 'F' : 'C'}
          </button>
          <button className="block w-full px-4 py-3 text-left" onClick={toggleTheme}>
            {theme === 'day' ? 'Night' : 'Day'}
          </button>
        </div>
      </nav>
      <header className="border-base-300 flex min-w-0 items-center justify-end gap-1 overflow-hidden border-b px-5 text-sm max-sm:px-3">
        <LiveHeader />
        <RereadingLine />
        {network.data?.reachable && !network.data.secure && (
          <span className="border-warning text-warning ml-4 border-l-4 px-2 text-xs">not encrypted: anyone on this network can read along</span>
        )}
        {network.data?.name ? (
          <Link to="/people" className="link mr-auto not-first:ml-4 max-sm:hidden">
            {network.data.name}
            {network.data.role === 'look' && <span className="soft"> may look</span>}
          </Link>
        ) : (
          !narrow && (
            <div className="mr-auto not-first:ml-4">
              <SignedBy name={name} onName={setName} />
            </div>
          )
        )}
        <Link to="/people" className="btn btn-ghost btn-sm font-normal max-sm:hidden">
          Log
        </Link>
        <Link to="/jobs" className="btn btn-ghost btn-sm font-normal max-sm:hidden">
          Jobs
        </Link>
        <button className="btn btn-ghost btn-sm font-normal max-sm:hidden" onClick={() => keys.current?.showModal()}>
          <kbd className="font-sans font-semibold">?</kbd> keys
        </button>
        <button className="btn btn-ghost btn-sm font-normal max-sm:hidden" onClick={toggleDegrees} aria-label="switch °C and °F">
          °{degrees}
        </button>
        <button className="btn btn-ghost btn-sm font-normal max-sm:hidden" onClick={toggleTheme}>
          {theme === 'day' ? 'Night' : 'Day'}
        </button>
      </header>
      <div className="flex min-h-0 min-w-0 flex-col">
        <Troubles />
        <ShownLast />
        <main className="relative min-h-0 min-w-0 flex-1 overflow-auto">
          <Outlet />
        </main>
      </div>
      <dialog ref={keys} className="modal" aria-label="keys">
        <div className="modal-box max-w-md">
          <h2 className="mb-3 text-lg font-bold">Keys</h2>
          <table className="table-sm table">
            <tbody>
              {KEYS.map(([key, what]) => (
                <tr key={key}>
                  <th scope="row" className="reading w-20">
                    {key}
                  </th>
                  <td>{what}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <form method="dialog" className="modal-action">
            <button className="btn btn-sm">Close</button>
          </form>
        </div>
      </dialog>
    </div>
  )
}

/** Who notes and changes are signed by, where nobody has to sign in. */
function SignedBy({ name, onName }: { name: string; onName: (name: string) => void }) {
  return (
    <label className="flex items-center gap-2">
      <span className="soft whitespace-nowrap sm:max-lg:sr-only">notes signed by</span>
      <input
        className="input input-ghost input-xs w-32 min-w-0"
        value={name}
        placeholder="your name"
        maxLength={60}
        onChange={(e) => {
          onName(e.target.value)
        }}
      />
    </label>
  )
}
