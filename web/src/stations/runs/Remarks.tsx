import { useMutation } from '@tanstack/react-query'
import { useChanged } from '../../api/useChanged'
import { useRef, useState } from 'react'
import { api, asProblem, byHeader, Refused, taken, type Shape } from '../../api/client'
import { duration } from '../../ui/format'
import { ProblemLine } from '../../ui/Problem'
import { useSay } from '../../ui/Undo'

/** Notes and pictures of a run. */
export function Remarks({ run }: { run: Shape['RunShape'] }) {
  const changed = useChanged('run')
  const say = useSay()
  const [text, setText] = useState('')
  const picture = useRef<HTMLInputElement>(null)
  const refresh = changed
  const note = useMutation({
    mutationFn: async () =>
      taken(await api.POST('/api/runs/{run_id}/notes', { params: { path: { run_id: run.id } }, body: { text } })),
    onSuccess: async () => {
      setText('')
      await refresh()
    },
  })
  const send = useMutation({
    mutationFn: async (file: File) => {
      const address = `/api/runs/${run.id}/photos?name=${encodeURIComponent(file.name)}`
      const answer = await fetch(address, { method: 'POST', body: file, headers: byHeader() })
      if (!answer.ok) throw new Refused(asProblem(await answer.json()))
    },
    onSuccess: refresh,
  })
  const removeNote = async (id: string) => {
    taken(await api.DELETE('/api/notes/{note_id}', { params: { path: { note_id: id } } }))
    await refresh()
    say({
      text: 'The note was deleted.',
      undo: async () => {
        taken(await api.POST('/api/notes/{note_id}/restored', { params: { path: { note_id: id } } }))
        await refresh()
      },
    })
  }
  const removePhoto = async (id: string) => {
    taken(await api.DELETE('/api/photos/{photo_id}', { params: { path: { photo_id: id } } }))
    await refresh()
    say({
      text: 'The picture was deleted.',
      undo: async () => {
        taken(await api.POST('/api/photos/{photo_id}/restored', { params: { path: { photo_id: id } } }))
        await refresh()
      },
    })
  }
  return (
    <section aria-label="notes and pictures" className="text-sm">
      <h2 className="mb-2 text-lg font-bold">Notes and pictures</h2>
      <ul className="space-y-1">
        {run.notes.map((n) => (
          <li key={n.id} className="flex gap-3">
            <span className="grow break-words">
              {n.minute !== null && <b className="reading">{duration(n.minute)} </b>}
              {n.text} {n.by && <span className="soft">— {n.by}</span>}
            </span>
            <button className="soft cursor-pointer underline" onClick={() => void removeNote(n.id)}>
              delete
            </button>
          </li>
        ))}
      </ul>
      {run.photos.length > 0 && (
        <ul className="mt-3 flex flex-wrap gap-3">
          {run.photos.map((p) => (
            <li key={p.id}>
              <a href={`/api/photos/${p.id}`} target="_blank" rel="noreferrer">
                <img src={`/api/photos/${p.id}`} alt={p.caption || p.name} className="border-base-300 h-24 border object-cover" />
              </a>
              <button className="soft cursor-pointer text-xs underline" onClick={() => void removePhoto(p.id)}>
                delete {p.name}
              </button>
            </li>
          ))}
        </ul>
      )}
      <form
        className="mt-3 flex gap-2"
        onSubmit={(e) => {
          e.preventDefault()
          note.mutate()
        }}
      >
        <input
          className="input input-sm grow"
          aria-label="a note on this run"
          placeholder="what was seen: moved at 20 min, window open …"
          value={text}
          onChange={(e) => {
            setText(e.target.value)
          }}
        />
        <button className="btn btn-sm" disabled={!text.trim() || note.isPending}>
          Add note
        </button>
        <button type="button" className="btn btn-sm" onClick={() => picture.current?.click()}>
          Add picture
        </button>
        <input
          ref={picture}
          type="file"
          accept="image/png,image/jpeg,image/webp"
          className="hidden"
          aria-label="a picture of this run"
          onChange={(e) => {
            const file = e.target.files?.[0]
            if (file) send.mutate(file)
            e.target.value = ''
          }}
        />
      </form>
      {(note.isError || send.isError) && <ProblemLine error={note.error ?? send.error} />}
    </section>
  )
}
