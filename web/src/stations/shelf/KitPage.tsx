import { useRef, useState } from 'react'
import { Link, useNavigate, useSearchParams } from 'react-router'
import { useKit, useKitChanges, type Kit, type KitKind } from '../../api/useKit'
import { ProblemLine } from '../../ui/Problem'
import { useSay } from '../../ui/Undo'
import { useKeys } from '../../ui/useKeys'
import { counted, KINDS, PLURALS } from './counted'
import { FitPhone } from './FitPhone'
import { KitForm } from './KitForm'
import { KitLine } from './KitLine'

/** Everything that is owned: entered in a line or a form, changed, retired, carried out and in. */
export function KitPage() {
  const [query, setQuery] = useSearchParams()
  const navigate = useNavigate()
  const say = useSay()
  const kit = useKit()
  const retired = useKit(true)
  const changes = useKitChanges()
  const [form, setForm] = useState<{ kind: KitKind; piece: Kit | null } | null>(null)
  const [fitting, setFitting] = useState<Kit | null>(null)
  const file = useRef<HTMLInputElement>(null)
  const line = useRef<HTMLInputElement>(null)
  const words = (query.get('find') ?? '').toLowerCase().split(/\s+/).filter(Boolean)
  const shown = (kit.data ?? []).filter((k) => words.every((w) => `${k.kind} ${k.label} ${k.said}`.toLowerCase().includes(w)))
  useKeys({ '/': () => line.current?.focus(), s: () => void navigate('/shelf') })

  const retire = (piece: Kit) => {
    changes.retire.mutate(piece.id, {
      onSuccess: () => {
        say({ text: `“${piece.label}” is deleted.`, undo: () => changes.bringBack.mutateAsync(piece.id) })
      },
    })
  }
  const bring = (chosen: File | undefined) => {
    if (!chosen) return
    changes.bring.mutate(chosen, {
      onSuccess: ({ added, left }) => {
        const stayed = left.length ? `; ${String(left.length)} on the shelf already: ${left.slice(0, 4).join(', ')}${left.length > 4 ? ' …' : ''}` : ''
        const pieces = added.length === 1 ? '1 piece' : `${String(added.length)} pieces`
        say({
          text: `${pieces} added${stayed}.`,
          undo: added.length ? () => Promise.all(added.map((k) => changes.retire.mutateAsync(k.id))) : undefined,
        })
      },
    })
  }
  return (
    <div className="px-6 pt-4 pb-8 max-sm:px-3">
      <div className="flex items-center gap-3 pb-2 max-sm:flex-wrap">
        <h1 className="text-2xl font-bold">Kit</h1>
        <span className="soft">{kit.data && counted(kit.data)}</span>
        <Link to="/shelf" className="btn btn-outline border-base-300 btn-sm ml-auto font-normal">
          To the chain
        </Link>
        <button className="btn btn-outline border-base-300 btn-sm font-normal" onClick={() => file.current?.click()}>
          Import
        </button>
        <input
          ref={file}
          type="file"
          accept=".json,.csv,text/csv,application/json"
          className="hidden"
          aria-label="a shelf as JSON or CSV"
          onChange={(e) => {
            bring(e.target.files?.[0])
            e.target.value = ''
          }}
        />
        <a className="btn btn-outline border-base-300 btn-sm font-normal" href="/api/kit/export?format=csv" download>
          CSV
        </a>
        <a className="btn btn-outline border-base-300 btn-sm font-normal" href="/api/kit/export?format=json" download>
          JSON
        </a>
      </div>
      <KitLine
        field={line}
        focused={query.has('add')}
        onForm={(kind) => {
          setForm({ kind, piece: null })
        }}
      />
      {kit.isError && <ProblemLine error={kit.error} />}
      {changes.bring.isError && <ProblemLine error={changes.bring.error} />}
      {kit.data?.length === 0 && (
        <p className="soft mt-4">Nothing yet. Begin with a phone and a charger; the rest can follow.</p>
      )}
      {(kit.data?.length ?? 0) > 0 && (
        <input
          type="search"
          className="input input-sm mt-3 w-64"
          placeholder="filter: kind, label, profile …"
          aria-label="filter the kit"
          value={query.get('find') ?? ''}
          onChange={(e) => {
            setQuery(e.target.value ? { find: e.target.value } : {}, { replace: true })
          }}
        />
      )}
      {KINDS.filter((kind) => shown.some((k) => k.kind === kind)).map((kind) => (
        <section key={kind} aria-label={PLURALS[kind]} className="mt-3">
          <h2 className="border-base-300 border-b pb-0.5 text-base font-bold capitalize">{PLURALS[kind]}</h2>
          <ul>
            {shown
              .filter((k) => k.kind === kind)
              .map((k) => (
                <li key={k.id} className="border-base-300 grid grid-cols-[200px_1fr_auto] items-center gap-3 border-b py-1 text-sm max-sm:grid-cols-[minmax(0,1fr)_auto] max-sm:gap-0">
                  <button
                    className="cursor-pointer truncate text-left font-semibold underline-offset-2 hover:underline max-sm:min-h-11 max-sm:whitespace-normal"
                    title={`change ${k.label}`}
                    onClick={() => {
                      setForm({ kind: k.kind, piece: k })
                    }}
                  >
                    {k.label}
                  </button>
                  <span className="min-w-0 max-sm:order-last max-sm:col-span-2 max-sm:pb-1">
                    {[k.said, k.checked].filter(Boolean).join(' · ')}
                    {k.fields.price && <span className="soft"> · {k.fields.price}</span>}
                    {k.fields.note && <span className="soft"> · {k.fields.note}</span>}
                    {k.fit && <span className="soft"> · fitted to “{k.fit.run}”: {k.fit.said}</span>}
                  </span>
                  <span className="flex gap-1 max-sm:justify-end">
                    {k.kind === 'phone' && (
                      <button
                        className="btn btn-ghost btn-xs font-normal"
                        aria-label={`fit to a run: ${k.label}`}
                        onClick={() => {
                          setFitting(k)
                        }}
                      >
                        fit to a run
                      </button>
                    )}
                    <button
                      className="btn btn-ghost btn-xs font-normal"
                      aria-label={`delete ${k.label}`}
                      onClick={() => {
                        retire(k)
                      }}
                    >
                      delete
                    </button>
                  </span>
                </li>
              ))}
          </ul>
        </section>
      ))}
      {(kit.data?.length ?? 0) > 0 && shown.length === 0 && <p className="soft mt-3">Nothing on the shelf matches.</p>}
      {(retired.data?.length ?? 0) > 0 && (
        <details className="mt-5 text-sm">
          <summary className="soft cursor-pointer">deleted: {retired.data?.length}</summary>
          <ul>
            {retired.data?.map((k) => (
              <li key={k.id} className="flex items-center gap-3 py-0.5">
                <span className="soft w-16">{k.kind}</span>
                <b className="font-semibold">{k.label}</b>
                <button
                  className="btn btn-ghost btn-xs font-normal"
                  aria-label={`restore ${k.label}`}
                  onClick={() => {
                    changes.bringBack.mutate(k.id)
                  }}
                >
                  restore
                </button>
              </li>
            ))}
          </ul>
        </details>
      )}
      {form && (
        <KitForm
          key={form.piece?.id ?? form.kind}
          kind={form.kind}
          piece={form.piece}
          onClose={() => {
            setForm(null)
          }}
        />
      )}
      {fitting && (
        <FitPhone
          phone={fitting}
          onClose={() => {
            setFitting(null)
          }}
        />
      )}
    </div>
  )
}
