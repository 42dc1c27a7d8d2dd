import { useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useSearchParams } from 'react-router'
import { asProblem, sayProblem, taken, type Shape } from '../../api/client'
import { queries } from '../../api/queries'
import { sendPackFile } from '../../api/sendFile'
import { useChanged } from '../../api/useChanged'
import { newFindingPath } from '../../shared/paths'
import { ProblemLine } from '../../ui/Problem'
import { useSay } from '../../ui/Undo'
import { FORMS, GIVEN, type FormOf } from './forms'
import { Givers } from './Givers'
import { PackList, type Cell } from './PackList'
import { PackPanel } from './PackPanel'
import { PacksTabs } from './PacksTabs'
import { TestForm } from './TestForm'

const counted = (count: number, thing: string) => `${String(count)} ${thing}${count === 1 ? '' : 's'}`
const plain = 'btn btn-outline border-base-300 btn-sm font-normal'
const NO_COIL = { has_coil: false, has_cord: true }

/** What came of a file, in one sentence. */
function said(kept: Shape['FileKept'], pack: string): string {
  const left = kept.left_out.length ? ` ${counted(kept.left_out.length, 'row')} left out.` : ''
  if (kept.holds === 'load test') return `A load test of ${pack} is kept.`
  if (kept.holds === 'charges') return `${counted(kept.tests.length, 'charge')} kept.${left}`
  return `${counted(kept.tests.length, 'test')} came in, ${String(kept.here)} were here already.${left}`
}

/** Every pack of the shelf: what was promised, what came, and what that costs. */
export function PacksPage() {
  const say = useSay()
  const changed = useChanged('pack')
  const list = useQuery(queries.packs())
  const charges = useQuery(queries.packCharges())
  const rows = list.data?.packs ?? []
  const givers = list.data?.givers ?? []
  const [search, setSearch] = useSearchParams()
  const linked = useQuery({ ...queries.packTest(search.get('test') ?? ''), enabled: search.get('test') !== null && search.get('pack') === null })
  const chosen = search.get('pack') ?? linked.data?.pack ?? ''
  const [phone, setPhone] = useState('')
  const test = search.get('test')
  const setTest = (id: string | null) => {
    setSearch({ ...(pack ? { pack: pack.label } : {}), ...(id ? { test: id } : {}) }, { replace: true })
  }
  const [form, setForm] = useState<{ form: FormOf; label: string } | null>(null)
  const [over, setOver] = useState(false)
  const pack = rows.find((r) => r.label === chosen) ?? rows[0]
  const phones = charges.data?.phones ?? []
  const ofPhone = phones.includes(phone) ? phone : (rows.flatMap((r) => r.charges)[0]?.phone ?? phones[0] ?? '')
  const cellOf = (row: Shape['PackRow']): Cell | undefined => {
    const cells = charges.data?.rows.find((r) => r.pack === row.label)?.cells.filter((c) => c.phone.toLowerCase() === ofPhone.toLowerCase()) ?? []
    return cells.find((c) => c.basis === 'measured') ?? cells[0]
  }
  const file = useMutation({
    mutationFn: async (sent: File[]) => {
      const kept: Shape['FileKept'][] = []
      const left: string[] = []
      // One file can spoil only itself.
      for (const one of sent) {
        try {
          kept.push(taken(await sendPackFile(one, pack?.label ?? '')))
        } catch (error) {
          if (sent.length === 1) throw error
          left.push(`${one.name}: ${sayProblem(asProblem(error))}`)
        }
      }
      return { kept, left: [...kept.flatMap((k) => k.left_out), ...left] }
    },
    onSuccess: async ({ kept }) => {
      await changed()
      const first = kept[0]
      if (first) setTest(first.tests[0] ?? null)
      say({ text: first && kept.length === 1 ? said(first, pack?.label ?? '') : `${counted(kept.length, 'file')} kept.` })
    },
  })
  const count = (kind: Shape['TestRow']['kind']) => rows.reduce((sum, r) => sum + (r.counts[kind] ?? 0), 0)
  const openForm = (wanted: FormOf, label: string) => {
    setForm({ form: wanted, label })
  }
  if (list.data && rows.length === 0)
    return (
      <div className="px-6 pt-4">
        <PacksTabs shown="/packs" />
        <p className="mt-3 max-w-prose">
          No pack stands on the shelf yet.{' '}
          <Link to="/shelf/kit" className="underline underline-offset-2">
            Put one there
          </Link>{' '}
          in one line, as in <span className="reading">pack Col bank 10000mAh 3.7V 5V3A mpp 212g 4 lamps</span>.
        </p>
        <Givers rows={givers} onCharge={(label) => { openForm(GIVEN, label) }} />
        {form && <TestForm key={form.label} form={form.form} label={form.label} pack={NO_COIL} onKept={() => { setForm(null) }} onClose={() => { setForm(null) }} />}
      </div>
    )
  const [first, ...others] = FORMS
  return (
    <div
      className={`px-6 pt-4 pb-8 max-sm:px-3 ${over ? 'outline-primary outline-2 -outline-offset-4' : ''}`}
      onDragOver={(event) => {
        event.preventDefault()
        setOver(true)
      }}
      onDragLeave={() => {
        setOver(false)
      }}
      onDrop={(event) => {
        event.preventDefault()
        setOver(false)
        const dropped = [...event.dataTransfer.files]
        if (dropped.length) file.mutate(dropped)
      }}
    >
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-2">
        <PacksTabs shown="/packs" />
        <span className="soft text-sm">
          {counted(rows.length, 'pack')} · {counted(count('charge'), 'charge')} · {counted(count('load'), 'load test')}
        </span>
        <span className="ml-auto flex gap-2 max-sm:ml-0 max-sm:flex-wrap">
          {file.isPending && <span className="soft self-center text-sm">Reading …</span>}
          {others.slice(0, 2).map((f) => (
            <button key={f.kind} className={plain} disabled={!pack} onClick={() => { if (pack) openForm(f, pack.label) }}>
              {f.button}
            </button>
          ))}
          <button className={plain} popoverTarget="packs-more" aria-label="more for packs">
            More
          </button>
          <span id="packs-more" popover="auto" className="bg-base-100 text-base-content border-base-content m-auto border p-4 text-sm shadow-lg">
            <span className="flex w-64 flex-col items-stretch gap-2">
              {others.slice(2).map((f) => (
                <button key={f.kind} className={plain} popoverTarget="packs-more" onClick={() => { if (pack) openForm(f, pack.label) }}>
                  {f.button}
                </button>
              ))}
              <label className={plain}>
                A file: log, charges, tests
                <input
                  type="file"
                  multiple
                  className="sr-only"
                  aria-label="a file of packs"
                  onChange={(event) => {
                    const picked = [...(event.target.files ?? [])]
                    document.getElementById('packs-more')?.hidePopover()
                    if (picked.length) file.mutate(picked)
                    event.target.value = ''
                  }}
                />
              </label>
              {['csv', 'xlsx', 'json'].map((kind) => (
                <a key={kind} className={plain} href={`/api/exports/packs.${kind}`} download>
                  All tests as {kind.toUpperCase()}
                </a>
              ))}
            </span>
          </span>
          {rows.length > 0 && (
            <Link className={plain} to={newFindingPath({ packs: rows.map((r) => r.label) })}>
              Finding
            </Link>
          )}
          {first && (
            <button className="btn btn-primary btn-sm max-sm:order-first max-sm:w-full" disabled={!pack} onClick={() => { if (pack) openForm(first, pack.label) }}>
              {first.button}
            </button>
          )}
        </span>
      </div>
      {(file.error ?? list.error) && <ProblemLine error={file.error ?? list.error} />}
      {file.data && file.data.left.length > 0 && (
        <details className="mt-2 text-sm" open>
          <summary>Left out</summary>
          {file.data.left.map((line) => (
            <p key={line} className="soft">
              {line}
            </p>
          ))}
        </details>
      )}
      {form && (
        <TestForm
          key={`${form.form.kind} ${form.label}`}
          form={form.form}
          label={form.label}
          pack={rows.find((r) => r.label === form.label) ?? NO_COIL}
          onKept={(kept) => {
            setForm(null)
            setTest(kept.id)
            say({ text: `Kept: ${kept.said}.` })
          }}
          onClose={() => {
            setForm(null)
          }}
        />
      )}
      <div className="mt-3 overflow-x-auto">
        <PackList
          rows={rows}
          chosen={pack?.label ?? ''}
          onChoose={(label) => {
            setSearch({ pack: label }, { replace: true })
            setForm(null)
          }}
          phones={phones}
          phone={ofPhone}
          onPhone={setPhone}
          cellOf={cellOf}
        />
      </div>
      {pack && <PackPanel key={pack.label} label={pack.label} chosen={test} onChoose={setTest} />}
      <Givers rows={givers} onCharge={(label) => { openForm(GIVEN, label) }} />
      <p className="soft mt-6 max-w-prose text-xs">
        Never leave the first discharge of an unknown pack unattended, nor one that grows hot or swells: take the load off, and keep it away from what burns.
      </p>
    </div>
  )
}
