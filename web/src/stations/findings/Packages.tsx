import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import type { Shape } from '../../api/client'
import { lines } from '../../api/lines'
import { sendPackage } from '../../api/sendFile'
import { percent } from '../../ui/format'
import { ProblemLine } from '../../ui/Problem'
import { useSay } from '../../ui/Undo'

type Told = Shape['PackageProgress'] & { problem?: Shape['Problem'] }
const over = (line: Told) => line.step === 'done'
const plain = 'btn btn-outline border-base-300 btn-sm font-normal'


/** A data package of one finding, or of everything, written with progress and then fetched. */
export function PackageButton({ finding, text }: { finding: string | null; text: string }) {
  const [share, setShare] = useState<number | null>(null)
  const write = useMutation({
    mutationFn: async () =>
      lines<Told>('/api/packages', { finding }, (line) => { setShare(line.fraction) }, over),
    onSuccess: (line) => {
      if (line.package) window.location.assign(`/api/packages/${line.package}`)
    },
    onSettled: () => {
      setShare(null)
    },
  })
  return (
    <>
      <button className={plain} disabled={write.isPending} onClick={() => { write.mutate() }}>
        {share === null ? text : `${text} ${percent(share)}`}
      </button>
      {write.error && <ProblemLine error={write.error} />}
    </>
  )
}

const counted = (counts: Record<string, number> | undefined) =>
  Object.entries(counts ?? {})
    .map(([name, n]) => `${String(n)} ${name.replaceAll('_', ' ')}`)
    .join(', ')

/** A data package brought in; what was changed here and there is told, and somebody decides. */
export function BringIn() {
  const client = useQueryClient()
  const say = useSay()
  const field = useRef<HTMLInputElement>(null)
  const [told, setTold] = useState('')
  const [upload, setUpload] = useState<string | null>(null)
  // They stand there until they are settled, also while that is being done, or where it fails.
  const [conflicts, setConflicts] = useState<Told['conflicts']>([])
  const bring = useMutation({
    mutationFn: async ({ id, take }: { id: string; take: '' | 'theirs' | 'mine' }) =>
      lines<Told>('/api/packages/imports', { upload: id, take }, (line) => { setTold(`Importing ${percent(line.fraction)}`) }, over),
    onSuccess: async (done) => {
      await client.invalidateQueries()
      setConflicts(done.conflicts)
      if (done.conflicts?.length) return
      setUpload(null)
      const came = [['Came in', counted(done.new)], ['Taken', counted(done.taken)]].filter(([, what]) => what)
      say({ text: came.length ? came.map(([how, what]) => `${String(how)}: ${String(what)}.`).join(' ') : 'All of it was here already.' })
    },
    onSettled: () => {
      setTold('')
    },
  })
  const send = useMutation({
    mutationFn: async (file: File) => sendPackage(file, (share) => { setTold(`Sending ${percent(share)}`) }),
    onSuccess: (sent) => {
      setUpload(sent.id)
      setConflicts([])
      bring.mutate({ id: sent.id, take: '' })
    },
  })
  return (
    <div className="mt-2">
      <label className={`${plain} w-full`}>
        {told || 'Import a data package'}
        <input
          ref={field}
          type="file"
          accept=".zip"
          className="sr-only"
          aria-label="data package to import"
          disabled={send.isPending || bring.isPending}
          onChange={(event) => {
            const file = event.target.files?.[0]
            if (file) send.mutate(file)
            event.target.value = ''
          }}
        />
      </label>
      {(send.error ?? bring.error) && <ProblemLine error={send.error ?? bring.error} />}
      {upload !== null && conflicts && conflicts.length > 0 && (
        <div className="border-warning mt-2 border-l-4 px-2 py-1 text-sm" role="alert" aria-label="changed here and there">
          <p className="font-semibold">Changed here and there, left as it is here:</p>
          <ul>
            {conflicts.slice(0, 12).map((c) => (
              <li key={`${c.table} ${c.label}`}>
                {c.label} <span className="soft">({c.table.replaceAll('_', ' ')}: {c.differs.join(', ')})</span>
              </li>
            ))}
            {conflicts.length > 12 && <li className="soft">and {conflicts.length - 12} more</li>}
          </ul>
          <div className="mt-1 flex gap-2">
            {(['theirs', 'mine'] as const).map((take) => (
              <button key={take} className="btn btn-outline border-base-300 btn-xs font-normal" disabled={bring.isPending} onClick={() => { bring.mutate({ id: upload, take }) }}>
                {take === 'theirs' ? 'Take theirs' : 'Keep mine'}
              </button>
            ))}
          </div>
        </div>
      )}
    </div>
  )
}
