import { useMutation, useQuery } from '@tanstack/react-query'
import { useMemo, useState } from 'react'
import { api, taken, type Shape } from '../../api/client'
import { queries } from '../../api/queries'
import { sendFile } from '../../api/sendFile'
import { useChanged } from '../../api/useChanged'
import { useKit } from '../../api/useKit'
import { ProblemLine } from '../../ui/Problem'
import { useKeys } from '../../ui/useKeys'
import { figure, type Field, type FormOf } from './forms'
import { useDraft } from './useDraft'

interface Props {
  form: FormOf
  label: string
  pack: { has_coil: boolean; has_cord: boolean }
  onKept: (test: Shape['PackTestShape']) => void
  onClose: () => void
}

/** A test of a pack, typed or as the log of it; what is typed stays until it is kept. */
export function TestForm({ form, label, pack, onKept, onClose }: Props) {
  const changed = useChanged('pack')
  const { values, set, clear } = useDraft(`pack test ${form.kind} ${label}`)
  const [files, setFiles] = useState<Partial<Record<string, File>>>({})
  const [asked, setAsked] = useState(false)
  const fields = form.fields(pack)
  const methods = (useQuery(queries.packMethods()).data ?? []).filter((m) => m.kind === form.kind)
  const several = fields.some((f) => f.more)
  const [wide, setWide] = useState(() => fields.some((f) => f.more && values[f.key]))
  const odd = fields.find((f) => f.type === 'number' && Number.isNaN(figure(values, f.key) ?? 0))
  const missing = fields.find((f) => form.needs.includes(f.key) && !values[f.key]?.trim())
  const keep = useMutation({
    mutationFn: async () => {
      const sent = async (file: File | undefined) => (file ? (await sendFile(file, () => undefined)).id : null)
      const [upload, second] = [await sent(files.file), await sent(files.second_file)]
      const cordOnly = !pack.has_coil && form.kind === 'charge' ? { ...values, by_cord: 'yes' } : values
      return taken(
        await api.POST('/api/packs/{label}/tests', {
          params: { path: { label } },
          body: { gauge_typed: '', ...form.body(cordOnly), kind: form.kind, upload, second_upload: second } as Shape['NewTest'],
        }),
      )
    },
    onSuccess: async (test) => {
      clear()
      await changed()
      onKept(test)
    },
  })
  useKeys(useMemo(() => ({ Escape: onClose }), [onClose]))
  return (
    <form
      className="border-base-content bg-base-200 mt-3 border px-4 py-3"
      aria-label={form.title(label)}
      onSubmit={(event) => {
        event.preventDefault()
        setAsked(true)
        if (!missing && !odd) keep.mutate()
      }}
      onKeyDown={(event) => {
        if (event.key === 'Escape') onClose()
      }}
    >
      <b className="block">{form.title(label)}</b>
      <div className="mt-2 flex flex-wrap items-end gap-x-4 gap-y-2">
        {fields
          .filter((f) => wide || !f.more)
          .map((f, i) => (
            <FieldBox
              key={f.key}
              field={f}
              first={i === 0}
              value={values[f.key] ?? ''}
              file={files[f.key]}
              onTyped={(value) => {
                set(f.key, value)
              }}
              onFile={(file) => {
                setFiles({ ...files, [f.key]: file })
              }}
            />
          ))}
      </div>
      <div className="mt-3 flex flex-wrap items-center gap-3">
        <button className="btn btn-primary btn-sm" disabled={keep.isPending}>
          {keep.isPending ? 'Keeping …' : 'Keep it'}
        </button>
        <button type="button" className="btn btn-ghost btn-sm font-normal" onClick={onClose}>
          Cancel
        </button>
        {several && (
          <button
            type="button"
            className="btn btn-ghost btn-sm font-normal"
            aria-expanded={wide}
            onClick={() => {
              setWide(!wide)
            }}
          >
            {wide ? 'Fewer fields' : 'More fields'}
          </button>
        )}
        <span className="soft max-w-prose text-xs">{form.hint}</span>
      </div>
      {methods.length > 0 && (
        <details className="mt-2 text-sm">
          <summary className="soft cursor-pointer text-xs">How to do it</summary>
          {methods.map((m) => (
            <div key={m.name} className="mt-1 max-w-prose">
              <b>{m.name}</b> <span className="soft">Good for {m.good_for}.</span>
              <ol className="list-decimal pl-5">
                {m.steps.map((step) => (
                  <li key={step}>{step}</li>
                ))}
              </ol>
            </div>
          ))}
        </details>
      )}
      {asked && missing && (
        <p role="alert" className="mt-1 text-sm">
          “{missing.name}” is empty.
        </p>
      )}
      {asked && !missing && odd && (
        <p role="alert" className="mt-1 text-sm">
          “{values[odd.key]}” under “{odd.name}” is no figure.
        </p>
      )}
      {keep.error && <ProblemLine error={keep.error} />}
    </form>
  )
}

interface BoxProps {
  field: Field
  first: boolean
  value: string
  file: File | undefined
  onTyped: (value: string) => void
  onFile: (file: File | undefined) => void
}

function FieldBox({ field, first, value, file, onTyped, onFile }: BoxProps) {
  const phones = (useKit().data ?? []).filter((k) => k.kind === 'phone').map((k) => k.label)
  if (field.type === 'tick')
    return (
      <label className="flex items-center gap-2 pb-1.5 text-sm">
        <input
          type="checkbox"
          className="checkbox checkbox-sm"
          checked={value === 'yes'}
          onChange={(event) => {
            onTyped(event.target.checked ? 'yes' : '')
          }}
        />
        {field.name}
      </label>
    )
  const options = field.type === 'phone' ? phones : field.options
  return (
    <label className="block text-sm">
      <span className="soft block text-xs">{field.name}</span>
      {options ? (
        <select
          autoFocus={first}
          className="select select-sm w-44"
          aria-label={field.name}
          value={value}
          onChange={(event) => {
            onTyped(event.target.value)
          }}
        >
          <option value="">{field.type === 'phone' ? 'choose one' : 'not said'}</option>
          {options.map((option) => (
            <option key={option}>{option}</option>
          ))}
        </select>
      ) : field.type === 'file' ? (
        <input
          autoFocus={first}
          type="file"
          className="file-input file-input-sm w-64"
          aria-label={field.name}
          title={file?.name}
          onChange={(event) => {
            onFile(event.target.files?.[0])
          }}
        />
      ) : field.type === 'lines' ? (
        <textarea
          className="textarea textarea-sm reading w-56"
          rows={3}
          aria-label={field.name}
          placeholder={field.example}
          value={value}
          onChange={(event) => {
            onTyped(event.target.value)
          }}
        />
      ) : (
        <input
          autoFocus={first}
          className={`input input-sm reading ${field.type === 'number' ? 'w-32' : 'w-56'}`}
          aria-label={field.name}
          placeholder={field.example}
          value={value}
          onChange={(event) => {
            onTyped(event.target.value)
          }}
        />
      )}
    </label>
  )
}
