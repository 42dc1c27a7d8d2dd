import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { api, taken } from '../../api/client'
import { copyText } from '../../ui/copyText'
import { ProblemLine } from '../../ui/Problem'
import { useSay } from '../../ui/Undo'
import { dateAt, ZONE } from '../../ui/times'

const plain = 'btn btn-outline border-base-300 btn-sm font-normal'

/** A link by which others read this finding, and nothing else; it can be taken back. */
export function ShareButton({ id }: { id: string }) {
  const [open, setOpen] = useState(false)
  const client = useQueryClient()
  const say = useSay()
  const params = { path: { finding_id: id } }
  const key = ['finding-link', id]
  const link = useQuery({
    queryKey: key,
    enabled: open,
    queryFn: async () => taken(await api.GET('/api/findings/{finding_id}/link', { params })),
  })
  const share = useMutation({
    mutationFn: async () => taken(await api.PUT('/api/findings/{finding_id}/link', { params })),
    onSuccess: (made) => {
      client.setQueryData(key, made)
    },
  })
  const takeBack = useMutation({
    mutationFn: async () => {
      taken(await api.DELETE('/api/findings/{finding_id}/link', { params }))
    },
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: key })
      say({ text: 'The link shows nothing any more.' })
    },
  })
  const copy = useMutation({
    mutationFn: copyText,
    onSuccess: () => {
      say({ text: 'Copied.' })
    },
  })
  const error = link.error ?? share.error ?? takeBack.error ?? copy.error
  return (
    <>
      <button className={plain} popoverTarget="finding-link">
        Share
      </button>
      <div
        id="finding-link"
        popover="auto"
        role="dialog"
        aria-label="share by a link"
        className="bg-base-100 text-base-content border-base-content m-auto w-[30rem] max-w-[calc(100vw-2rem)] border p-4 text-sm shadow-lg"
        onToggle={(e) => {
          setOpen(e.newState === 'open')
        }}
      >
        <p className="font-bold">Share by a link</p>
        <p className="mt-1">
          Whoever has the link reads this finding as it stands, without signing in. They see nothing else of the bench and
          change nothing.
        </p>
        {link.isPending && <p className="soft mt-2">One moment …</p>}
        {link.data?.url && (
          <>
            <input
              className="input input-sm mt-3 w-full"
              aria-label="link"
              readOnly
              value={link.data.url}
              onFocus={(e) => {
                e.target.select()
              }}
            />
            {link.data.note && <p className="mt-1">{link.data.note}</p>}
            <p className="soft mt-1">
              shared {link.data.since && dateAt(link.data.since, ZONE)}
              {link.data.by && ` by ${link.data.by}`}
            </p>
            <div className="mt-3 flex gap-2">
              <button className="btn btn-primary btn-sm" onClick={() => { copy.mutate(link.data.url) }}>
                Copy the link
              </button>
              <a className={plain} href={link.data.url} target="_blank" rel="noreferrer">
                Open it
              </a>
              <button className={plain} disabled={takeBack.isPending} onClick={() => { takeBack.mutate() }}>
                Take it back
              </button>
            </div>
          </>
        )}
        {link.data && !link.data.url && (
          <button className="btn btn-primary btn-sm mt-3" disabled={share.isPending} onClick={() => { share.mutate() }}>
            Make a link
          </button>
        )}
        {error && <ProblemLine error={error} />}
      </div>
    </>
  )
}
