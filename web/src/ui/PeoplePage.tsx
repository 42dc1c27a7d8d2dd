import { queries } from '../api/queries'
import { useState } from 'react'
import { useInfiniteQuery, useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { api, taken, type Shape } from '../api/client'
import { ProblemLine } from './Problem'
import { useNetwork } from './SignInPage'
import { whenAt } from './times'
import { Wide } from './Wide'

const zone = Intl.DateTimeFormat().resolvedOptions().timeZone

/** Who did what; over the network also who may sign in, and who has. */
export function PeoplePage() {
  const network = useNetwork()
  return (
    <div className="max-w-5xl px-5 pt-3 pb-8 max-sm:px-3">
      <h1 className="text-xl font-bold">{network.data?.reachable ? 'People and log' : 'Log'}</h1>
      <p className="soft mt-1 max-w-2xl text-sm">
        Who did what. {network.data?.reachable ? 'People sign in by name.' : 'On this machine alone nobody signs in: a name is what was typed above.'}
      </p>
      {network.data?.reachable && <People role={network.data.role} />}
      <Lines />
    </div>
  )
}

function People({ role }: { role: Shape['NetworkShape']['role'] }) {
  const people = useQuery(queries.people())
  const sessions = useQuery(queries.sessions())
  const [name, setName] = useState('')
  const [passphrase, setPassphrase] = useState('')
  const [looks, setLooks] = useState(false)
  const client = useQueryClient()
  const known = people.data?.find((p) => p.name.toLowerCase() === name.trim().toLowerCase())
  const changed = () => {
    void people.refetch()
    void sessions.refetch()
    void client.invalidateQueries({ queryKey: ['audit'] })
  }
  const add = useMutation({
    mutationFn: async () => {
      if (known) taken(await api.PUT('/api/people/{person_id}/passphrase', { params: { path: { person_id: known.id } }, body: { passphrase } }))
      else taken(await api.POST('/api/people', { body: { name, passphrase, role: looks ? 'look' : 'change' } }))
    },
    onSuccess: () => {
      setName('')
      setPassphrase('')
      changed()
    },
  })
  const remove = useMutation({
    mutationFn: async (id: string) => taken(await api.DELETE('/api/people/{person_id}', { params: { path: { person_id: id } } })),
    onSuccess: changed,
  })
  const end = useMutation({
    mutationFn: async (id: string) => taken(await api.DELETE('/api/sign-ins/{session_id}', { params: { path: { session_id: id } } })),
    onSuccess: changed,
  })
  const out = useMutation({
    mutationFn: async (everywhere: boolean) => taken(await (everywhere ? api.DELETE('/api/sign-ins') : api.DELETE('/api/sign-in'))),
    onSuccess: () => {
      window.location.assign('/sign-in')
    },
  })
  const may = role === 'change'
  const error = add.error ?? remove.error ?? end.error ?? out.error
  return (
    <>
      <div className="mt-3 flex flex-wrap gap-2">
        <button
          className="btn btn-sm btn-outline border-base-300"
          onClick={() => {
            out.mutate(false)
          }}
        >
          Sign out
        </button>
        <button
          className="btn btn-sm btn-outline border-base-300"
          onClick={() => {
            out.mutate(true)
          }}
        >
          Sign out everywhere
        </button>
      </div>
      {error && <ProblemLine error={error} />}
      <h2 className="mt-5 font-bold">May sign in</h2>
      <ul className="mt-1 text-sm">
        {(people.data ?? []).map((p) => (
          <li key={p.id} className="border-base-300 flex items-center gap-3 border-b py-1">
            <span className="min-w-40 font-semibold">{p.name}</span>
            <span className="soft min-w-24">{p.role === 'look' ? 'may look' : 'may change things'}</span>
            {may && (
              <button
                className="btn btn-ghost btn-xs ml-auto"
                onClick={() => {
                  if (window.confirm(`${p.name} will no longer be able to sign in. Remove?`)) remove.mutate(p.id)
                }}
              >
                Remove {p.name}
              </button>
            )}
          </li>
        ))}
      </ul>
      {may && (
        <form
          className="mt-2 flex flex-wrap items-end gap-2 text-sm"
          onSubmit={(e) => {
            e.preventDefault()
            add.mutate()
          }}
        >
          <label>
            <span className="soft block text-xs">name</span>
            <input className="input input-sm w-40" value={name} maxLength={120} onChange={(e) => { setName(e.target.value) }} />
          </label>
          <label>
            <span className="soft block text-xs">passphrase, 10 letters at least</span>
            <input
              type="password"
              className="input input-sm w-56"
              autoComplete="new-password"
              value={passphrase}
              onChange={(e) => {
                setPassphrase(e.target.value)
              }}
            />
          </label>
          <label className="flex items-center gap-2 pb-1.5">
            <input type="checkbox" className="checkbox checkbox-sm" disabled={Boolean(known)} checked={looks} onChange={(e) => { setLooks(e.target.checked) }} />
            may only look
          </label>
          <button className="btn btn-sm btn-primary" disabled={!name.trim() || !passphrase || add.isPending}>
            {known ? `Change passphrase of ${known.name}` : 'Add person'}
          </button>
        </form>
      )}
      <h2 className="mt-5 font-bold">Signed in</h2>
      <ul className="mt-1 text-sm">
        {(sessions.data ?? []).map((s) => (
          <li key={s.id} className="border-base-300 flex flex-wrap items-center gap-x-3 border-b py-1">
            <span className="min-w-40 font-semibold">
              {s.name}
              {s.own && <span className="soft font-normal"> (here)</span>}
            </span>
            <span className="soft">
              since {whenAt(s.at, zone)}, from {s.address}
            </span>
            <span className="soft max-w-80 truncate text-xs" title={s.agent}>
              {s.agent}
            </span>
            {may && !s.own && (
              <button
                className="btn btn-ghost btn-xs ml-auto"
                onClick={() => {
                  end.mutate(s.id)
                }}
              >
                End
              </button>
            )}
          </li>
        ))}
      </ul>
      <h2 className="mt-5 font-bold">What was done</h2>
    </>
  )
}

function Lines() {
  const lines = useInfiniteQuery({
    queryKey: ['audit'],
    initialPageParam: undefined as number | undefined,
    queryFn: async ({ pageParam }) => taken(await api.GET('/api/audit', { params: { query: { before: pageParam } } })),
    getNextPageParam: (page) => page.at(-1)?.id,
  })
  const all = lines.data?.pages.flat() ?? []
  return (
    <>
      {lines.isError && <ProblemLine error={lines.error} />}
      {lines.data && all.length === 0 && <p className="mt-4">Nothing was done yet.</p>}
      {all.length > 0 && (
        <div>
          <Wide least={34} className="table-sm mt-2 table">
            <thead className="text-secondary">
              <tr>
                <th>when</th>
                <th>who</th>
                <th>what</th>
                <th>of</th>
                <th>from</th>
              </tr>
            </thead>
            <tbody>
              {all.map((x) => (
                <tr key={x.id}>
                  <td className="whitespace-nowrap">{whenAt(x.at, zone)}</td>
                  <td className="max-w-40 truncate">{x.who || <span className="soft">no name</span>}</td>
                  <td title={x.route} className="first-letter:uppercase">
                    {x.what}
                  </td>
                  <td className="max-w-72 truncate" title={x.about}>
                    {x.about}
                  </td>
                  <td className="soft whitespace-nowrap">{x.address}</td>
                </tr>
              ))}
            </tbody>
          </Wide>
        </div>
      )}
      {lines.hasNextPage && all.length >= 200 && (
        <button
          className="btn btn-sm mt-2"
          disabled={lines.isFetchingNextPage}
          onClick={() => void lines.fetchNextPage()}
        >
          Earlier
        </button>
      )}
    </>
  )
}
