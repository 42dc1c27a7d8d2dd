import { useEffect, useRef, useState } from 'react'
import { useMutation } from '@tanstack/react-query'
import { benchApi } from '../../api/bench'
import { asProblem, sayProblem, type Shape } from '../../api/client'
import { useKitChanges, useKitKinds, useStandards, type Kit, type KitKind } from '../../api/useKit'
import { degreesText } from '../../ui/format'
import { ProblemLine } from '../../ui/Problem'
import { useSettings } from '../../reader/settings'
import { PackWalk } from '../../shared/PackWalk'
import { useSay } from '../../ui/Undo'
import { PlacesField, StandardsField } from './StandardsField'

type Field = Shape['KitField']

interface Props {
  kind: KitKind
  piece: Kit | null
  onClose: () => void
}

/** All the facts of one piece; what is wrong is said beside its field, and what was typed stays. */
export function KitForm({ kind, piece, onClose }: Props) {
  const kinds = useKitKinds()
  const changes = useKitChanges()
  const say = useSay()
  const dialog = useRef<HTMLDialogElement>(null)
  const [typed, setTyped] = useState<Record<string, string>>(piece?.fields ?? {})
  useEffect(() => {
    dialog.current?.showModal()
  }, [])
  const save = piece ? changes.change : changes.add
  const problem = save.isError ? asProblem(save.error) : null
  const flaws = Object.fromEntries((problem?.flaws ?? []).map((f) => [f.field, f]))
  useEffect(() => {
    if (save.isError) dialog.current?.querySelector<HTMLElement>('[aria-invalid="true"]')?.focus()
  }, [save.isError, save.error])
  const fields = kinds.data?.find((k) => k.kind === kind)?.fields ?? []
  const done = {
    onSuccess: (kept: Kit) => {
      if (piece) {
        const before = { id: piece.id, revision: kept.revision, fields: piece.fields }
        say({ text: `“${kept.label}” is changed.`, undo: () => changes.change.mutateAsync(before) })
      } else say({ text: `“${kept.label}” is on the shelf.`, undo: () => changes.retire.mutateAsync(kept.id) })
      onClose()
    },
  }
  const submit = () => {
    if (piece) changes.change.mutate({ id: piece.id, revision: piece.revision, fields: typed }, done)
    else changes.add.mutate({ kind, fields: typed }, done)
  }
  return (
    <dialog ref={dialog} className="modal" aria-label={piece ? `change ${piece.label}` : `add a ${kind}`} onClose={onClose}>
      <div className="modal-box max-w-2xl">
        <h2 className="mb-3 text-lg font-bold">{piece ? piece.label : `Add a ${kind}`}</h2>
        <form
          onSubmit={(e) => {
            e.preventDefault()
            submit()
          }}
        >
          {piece?.kind === 'pack' && <PackWalk label={piece.label} />}
          <div className="grid grid-cols-2 gap-x-4 gap-y-2">
            {fields.map((f) => (
              <Entry
                key={f.name}
                field={f}
                value={typed[f.name] ?? ''}
                flaw={flaws[f.name]}
                onTyped={(value) => {
                  setTyped({ ...typed, [f.name]: value })
                }}
              />
            ))}
          </div>
          {problem && problem.flaws.length === 0 && <ProblemLine error={save.error} />}
          <div className="modal-action">
            <button type="button" className="btn btn-ghost btn-sm" onClick={() => dialog.current?.close()}>
              Cancel
            </button>
            <button className="btn btn-primary btn-sm" disabled={save.isPending}>
              {piece ? 'Save' : 'Add'}
            </button>
          </div>
        </form>
      </div>
    </dialog>
  )
}

/** Asks the instrument at an address who it is and what it shows. */
function TryIt({ address }: { address: string }) {
  const { degrees } = useSettings()
  const tried = useMutation({ mutationFn: () => benchApi.tryOut(address.trim()) })
  const understood = tried.data
  const figures = [
    understood?.volts != null && `${understood.volts.toFixed(2)} V`,
    understood?.amps != null && `${understood.amps.toFixed(3)} A`,
    understood?.watts != null && `${understood.watts.toFixed(2)} W`,
    understood?.celsius != null && `${degreesText(understood.celsius, degrees)} °${degrees}`,
  ].filter(Boolean)
  return (
    <span className="mt-1 flex flex-wrap items-center gap-2 text-xs">
      <button
        type="button"
        className="btn btn-outline border-base-300 btn-xs font-normal"
        disabled={tried.isPending}
        onClick={() => {
          tried.mutate()
        }}
      >
        {tried.isPending ? 'Asking …' : 'Try it'}
      </button>
      <span role="status">
        {tried.error ? sayProblem(asProblem(tried.error)) : understood && (understood.problem || `${understood.said}: ${figures.join(', ')}${understood.stand_in ? ' (a stand-in)' : ''}`)}
      </span>
      {understood?.columns && understood.columns.length > 0 && <span className="soft w-full">taken for: {understood.columns.join(' · ')}</span>}
    </span>
  )
}

interface EntryProps {
  field: Field
  value: string
  flaw?: Shape['Flaw']
  onTyped: (value: string) => void
}

function Entry({ field, value, flaw, onTyped }: EntryProps) {
  const name = field.unit ? `${field.said}, ${field.unit}` : field.said
  const standards = useStandards()
  const wide = field.name === 'address' || field.name === 'label' || field.name === 'note' || field.name === 'profiles'
  const described = flaw ? `flaw-${field.name}` : undefined
  if (field.by_coil)
    return (
      <div className="col-span-2 text-sm">
        <span className="soft text-xs">{field.said}</span>
        {field.by_coil === 'pads' ? (
          <PlacesField label={name} value={value} standards={standards.data ?? []} invalid={Boolean(flaw)} described={described} onTyped={onTyped} />
        ) : (
          <StandardsField label={name} value={value} standards={standards.data ?? []} phone={field.name === 'accepts'} invalid={Boolean(flaw)} described={described} onTyped={onTyped} />
        )}
        {flaw && (
          <span id={described} className="text-error text-xs">
            {flaw.what} {flaw.mend}
          </span>
        )}
      </div>
    )
  return (
    <label className={`block text-sm ${wide ? 'col-span-2' : ''}`}>
      <span className="soft text-xs">
        {field.said}
        {!field.required && field.default && field.choices.length === 0 ? ` (${field.default} if empty)` : ''}
      </span>
      {field.choices.length > 0 ? (
        <select
          className={`select select-sm w-full ${flaw ? 'select-error' : ''}`}
          aria-label={name}
          aria-invalid={Boolean(flaw)}
          aria-describedby={described}
          value={value || field.default}
          onChange={(e) => {
            onTyped(e.target.value)
          }}
        >
          {!field.default && <option value="">not known</option>}
          {field.choices.map((c) => (
            <option key={c}>{c}</option>
          ))}
        </select>
      ) : (
        <span className={`input input-sm w-full ${flaw ? 'input-error' : ''}`}>
          <input
            className="min-w-0 grow"
            aria-label={name}
            aria-invalid={Boolean(flaw)}
            aria-describedby={described}
            placeholder={field.hint}
            title={field.hint}
            value={value}
            maxLength={1000}
            autoComplete="off"
            onChange={(e) => {
              onTyped(e.target.value)
            }}
          />
          {field.unit && <span className="soft">{field.unit}</span>}
        </span>
      )}
      {field.name === 'address' && value.trim() !== '' && <TryIt address={value} />}
      {flaw && (
        <span id={described} className="text-error text-xs">
          {flaw.what}
          {flaw.mend && `${flaw.what.endsWith('?') ? '' : ';'} ${flaw.mend}`}
        </span>
      )}
    </label>
  )
}
