import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { api, taken, type Shape } from '../../api/client'
import { ProblemLine } from '../../ui/Problem'
import { useSay } from '../../ui/Undo'
import type { Choice, SentFile } from './files'

type Mapping = Shape['Mapping']

/** What was put right in a file, as a mapping keeps it. */
const mappingOf = (name: string, file: SentFile): Mapping => ({
  name,
  headings: file.understanding?.columns.map((c) => c.heading) ?? [],
  columns: Object.fromEntries(
    Object.entries(file.choice.columns ?? {}).map(([i, c]) => [i, { quantity: c.quantity, unit: c.unit ?? null }]),
  ),
  time_form: file.choice.time_form ?? null,
  comma: file.choice.comma ?? null,
})

/** A mapping as a choice for a file. */
const choiceOf = (mapping: Mapping): Choice => ({
  columns: mapping.columns as Choice['columns'],
  time_form: mapping.time_form as Choice['time_form'],
  comma: mapping.comma,
})

interface Props {
  file: SentFile
  onChoice: (choice: Choice) => void
}

/** Corrections kept under a name; those of a file of the same headings are offered. */
export function MappingLine({ file, onChoice }: Props) {
  const [name, setName] = useState('')
  const say = useSay()
  const keep = useMutation({
    mutationFn: async (mapping: Mapping) => taken(await api.PUT('/api/mappings', { body: mapping })),
    onSuccess: (mapping) => {
      setName('')
      say({
        text: `Kept as “${mapping.name}”: offered when a file with these headings comes again.`,
        undo: async () => {
          await api.DELETE('/api/mappings/{name}', { params: { path: { name: mapping.name } } })
        },
      })
    },
  })
  const known = file.upload?.mapping
  const changed = Object.keys(file.choice.columns ?? {}).length > 0 || Boolean(file.choice.time_form)
  if (!changed)
    return known ? (
      <p className="bg-accent mx-3 mb-2 flex items-center gap-4 px-3 py-1.5 text-sm">
        A file with these headings was corrected before, as “{known.name}”.
        <button
          type="button"
          className="btn btn-outline btn-xs font-normal"
          onClick={() => {
            onChoice(choiceOf(known))
          }}
        >
          Do the same here
        </button>
      </p>
    ) : null
  if (!file.understanding?.columns.some((c) => c.heading)) return null
  return (
    <div className="mx-3 mb-2 flex items-center gap-2 text-sm">
      <input
        className="input input-xs w-48"
        aria-label={`name for the corrections of ${file.name}`}
        placeholder="name, to do the same next time"
        value={name}
        maxLength={80}
        onChange={(e) => {
          setName(e.target.value)
        }}
      />
      <button
        type="button"
        className="btn btn-outline btn-xs font-normal"
        disabled={name.trim() === '' || keep.isPending}
        onClick={() => {
          keep.mutate(mappingOf(name.trim(), file))
        }}
      >
        Keep this
      </button>
      {keep.isError && <ProblemLine error={keep.error} />}
    </div>
  )
}
