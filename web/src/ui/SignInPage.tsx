import { queries } from '../api/queries'
import { useState } from 'react'
import { useMutation, useQuery } from '@tanstack/react-query'
import { useNavigate } from 'react-router'
import { api, taken } from '../api/client'
import { ProblemLine } from './Problem'
import { storedName } from '../reader/settings'

/** The sign-in that everybody is asked for once the bench listens on the network. */
export function SignInPage() {
  const navigate = useNavigate()
  const network = useNetwork()
  const [name, setName] = useState(storedName())
  const [passphrase, setPassphrase] = useState('')
  const sign = useMutation({
    mutationFn: async () => taken(await api.POST('/api/sign-in', { body: { name, passphrase } })),
    onSuccess: () => {
      // Everything is read afresh, as somebody who has signed in.
      window.location.assign('/bench')
    },
  })
  if (network.data?.signed_in) void navigate('/bench', { replace: true })
  return (
    <main className="mx-auto flex h-dvh max-w-sm flex-col justify-center px-6">
      <h1 className="text-2xl font-bold">Jaunecharge</h1>
      <form
        className="mt-4"
        onSubmit={(e) => {
          e.preventDefault()
          sign.mutate()
        }}
      >
        <label className="block">
          <span className="soft text-sm">your name</span>
          <input
            className="input w-full"
            autoFocus
            autoComplete="username"
            value={name}
            placeholder="bench"
            maxLength={120}
            onChange={(e) => {
              setName(e.target.value)
            }}
          />
        </label>
        <label className="mt-3 block">
          <span className="soft text-sm">passphrase</span>
          <input
            type="password"
            className="input w-full"
            autoComplete="current-password"
            value={passphrase}
            onChange={(e) => {
              setPassphrase(e.target.value)
            }}
          />
        </label>
        <button className="btn btn-primary mt-3 w-full" disabled={!passphrase || sign.isPending}>
          Sign in
        </button>
      </form>
      {sign.error && (
        <div className="mt-3">
          <ProblemLine error={sign.error} />
        </div>
      )}
      {network.data && !network.data.secure && (
        <p className="text-warning mt-4 text-sm">Not encrypted: anyone on this network can read along, the passphrase included. The bench was started without a certificate.</p>
      )}
    </main>
  )
}

/** How the application is reached. */
export function useNetwork() {
  return useQuery(queries.network())
}
