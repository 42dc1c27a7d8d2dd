import { useMutation } from '@tanstack/react-query'
import { useChanged } from '../../api/useChanged'
import { useCallback, useEffect, useEffectEvent, useRef, useState, type DragEvent } from 'react'
import { Link, useNavigate, useSearchParams } from 'react-router'
import { api, type Shape } from '../../api/client'
import { readRun } from '../../api/readRun'
import { sendFile } from '../../api/sendFile'
import { useSlot } from '../../api/usePlans'
import { ProblemLine } from '../../ui/Problem'
import { inDegrees } from '../../ui/format'
import { useSettings, type Degrees } from '../../reader/settings'
import { CheckInBox, useCheckIns } from './CheckInBox'
import { FileCard } from './FileCard'
import { HeatBox, useHeatText } from './HeatBox'
import { PasteBox } from './PasteBox'
import { waitingFiles, type SentFile } from './files'
import { caseOf, NOTHING_STATED, notNumbers, RunFields, type Stated } from './RunFields'
import { useClocks, usesOf } from './WhoseClock'

type Role = Shape['FileUse']['roles'][number]

/** What a meter would add. */
const WITHOUT_METER = 'Ready, without a meter: times, pace and heat. A meter log would add watts, energy, efficiency and causes.'

const ROLE_NAMES: Record<Role, string> = { meter: 'meter log', checkins: 'check-ins', heat: 'temperatures', phone: "phone's own watts", socket: 'meter at the socket' }

/** What a new file is used for: what it gives, less what other files give already. */
function firstRoles(gives: Role[], others: SentFile[]): Role[] {
  const taken = new Set(others.flatMap((f) => f.roles))
  return gives.filter((role) => !taken.has(role) && role !== 'socket')
}

/** Reading a run from files: how they are understood, what is added by hand, then the reading. */
export function ReadPage() {
  const navigate = useNavigate()
  const changed = useChanged('run')
  const { degrees } = useSettings()
  const [files, setFiles] = useState<SentFile[]>([])
  const [stated, setStated] = useState(NOTHING_STATED)
  const [text, setText] = useState('')
  const [reference, setReference] = useState<Shape['CheckInsShape']['reference'] | null>(null)
  const [step, setStep] = useState<{ step: string; fraction: number } | null>(null)
  const [note, setNote] = useState('')
  const chooser = useRef<HTMLInputElement>(null)
  const checkins = useCheckIns(text)
  const [heatText, setHeatText] = useState('')
  const heat = useHeatText(heatText)
  const clocks = useClocks(files)
  const [query] = useSearchParams()
  const slot = useSlot(query.get('slot'))
  const fillIn = useEffectEvent((planned: Shape['SlotRef']) => {
    setStated((now) => statedBy(planned, now, degrees))
  })
  useEffect(() => {
    // eslint-disable-next-line react-hooks/set-state-in-effect -- what the plan knows of the run is filled in once it is there
    if (slot.data) fillIn(slot.data)
  }, [slot.data])

  const update = useCallback((key: number, change: Partial<SentFile>) => {
    setFiles((now) => now.map((f) => (f.key === key ? { ...f, ...change } : f)))
  }, [])
  const add = useCallback(
    (added: File[]) => {
      for (const file of added) {
        const key = nextKey()
        setFiles((now) => [...now, { key, name: file.name, sent: 0, roles: [], choice: {} }])
        sendFile(file, (sent) => {
          update(key, { sent })
        })
          .then((upload) => {
            setFiles((now) =>
              now.map((f) =>
                f.key === key
                  ? { ...f, upload, understanding: upload.understanding ?? undefined, roles: firstRoles(upload.understanding?.gives ?? [], now) }
                  : f,
              ),
            )
          })
          .catch((error: unknown) => {
            update(key, { error })
          })
      }
    },
    [update],
  )
  useEffect(() => {
    // eslint-disable-next-line react-hooks/set-state-in-effect -- files dropped on the page before are taken up once
    if (waitingFiles.length) add(waitingFiles.splice(0))
    else chooser.current?.focus()
  }, [add])

  const asked = files.find((f) => f.upload && !f.whose && clocks.get(f.upload.id)?.whose === null)
  const missing =
    notReady(files, (text + heatText).trim() !== '', checkins.error !== null && text.trim() !== '', heat.error !== null && heatText.trim() !== '', notNumbers(stated).length > 0) ??
    (asked ? `What do the times of ${asked.name} count from?` : null)
  const metered = files.some((f) => f.roles.includes('meter'))
  const read = useMutation({
    mutationFn: () => {
      setStep({ step: 'reading', fraction: 0 })
      return readRun(
        {
          label: stated.label,
          files: usesOf(files),
          checkins: text,
          checkins_reference: reference,
          heat: heatText,
          fahrenheit: degrees === 'F',
          factors: stated.factors,
          case: caseOf(stated, degrees),
          note,
          slot: slot.data?.id ?? null,
          zone: Intl.DateTimeFormat().resolvedOptions().timeZone || 'UTC',
        },
        setStep,
      )
    },
    onSuccess: async (id) => {
      await changed()
      await navigate(`/runs/${id}`)
    },
    onSettled: () => {
      setStep(null)
    },
  })
  const dropped = (event: DragEvent) => {
    event.preventDefault()
    add([...event.dataTransfer.files])
  }

  return (
    <form
      className="flex h-full flex-col"
      onDrop={dropped}
      onDragOver={(e) => {
        e.preventDefault()
      }}
      onSubmit={(e) => {
        e.preventDefault()
        read.mutate()
      }}
      data-testid="read"
    >
      <div className="min-h-0 flex-1 overflow-auto px-6 pt-4 pb-6">
        <div className="mb-3 flex items-baseline gap-4 max-sm:flex-col max-sm:gap-0">
          <h1 className="text-2xl font-bold">Read a run</h1>
          <p className="soft text-sm">
            {slot.data
              ? `For the plan: ${slot.data.label}. It will fill its slot.`
              : "From a meter log, from percentages, or both. Nothing is stored before you say so."}
          </p>
        </div>
        <div className="grid grid-cols-[minmax(0,1fr)_380px] gap-7 max-lg:grid-cols-1">
          <section aria-label="files" className="min-w-0 space-y-3">
            {files.map((file) => (
              <FileCard
                key={file.key}
                file={file}
                roleNames={ROLE_NAMES}
                clock={file.upload && file.roles.length > 0 ? clocks.get(file.upload.id) : undefined}
                onChange={(change) => {
                  update(file.key, change)
                }}
                onRemove={() => {
                  setFiles((now) => now.filter((f) => f.key !== file.key))
                  if (file.upload)
                    void api.DELETE('/api/uploads/{upload_id}', { params: { path: { upload_id: file.upload.id } } })
                }}
              />
            ))}
            <label
              className={`border-base-content/50 hover:bg-base-200 has-focus-visible:outline-base-content grid cursor-pointer place-items-center rounded border border-dashed px-4 text-center outline-offset-2 has-focus-visible:outline-2 ${
                files.length ? 'py-3' : 'py-14'
              }`}
            >
              <span>
                {files.length ? (
                  'Add another file: check-ins or temperatures'
                ) : (
                  <>
                    <b className="text-lg">Drop what you have: a meter log, percentages, temperatures</b>
                    <br />
                    <span className="soft">CSV or XLSX; or press Enter to choose files. No meter? Percentages are enough.</span>
                  </>
                )}
              </span>
              <input
                ref={chooser}
                type="file"
                multiple
                className="sr-only"
                aria-label="files to read"
                onKeyDown={(e) => {
                  if (e.key !== 'Enter') return
                  e.preventDefault()
                  e.currentTarget.click()
                }}
                accept=".csv,.tsv,.txt,.xlsx,.gz"
                onChange={(e) => {
                  add([...(e.target.files ?? [])])
                  e.target.value = ''
                }}
              />
            </label>
            <PasteBox
              onTable={(file) => {
                add([file])
              }}
            />
          </section>
          <section aria-label="what you add" className="space-y-4">
            <CheckInBox
              text={text}
              onText={setText}
              understood={checkins.data}
              error={checkins.error}
              reference={reference}
              onReference={setReference}
              fromFile={files.find((f) => f.roles.includes('checkins'))?.name}
            />
            <HeatBox
              text={heatText}
              onText={setHeatText}
              understood={heat.data}
              error={heat.error}
              fromFile={files.find((f) => f.roles.includes('heat'))?.name}
            />
            <RunFields stated={stated} onChange={setStated} />
            <label className="block text-sm">
              <span className="soft text-xs">note</span>
              <input
                className="input input-sm w-full"
                value={note}
                maxLength={4000}
                onChange={(e) => {
                  setNote(e.target.value)
                }}
              />
            </label>
          </section>
        </div>
      </div>
      <div className="border-base-300 bg-base-100 flex items-center gap-4 border-t px-6 py-2.5">
        <div className="grow text-sm">
          {step ? (
            <div className="flex items-center gap-3" role="status">
              {step.step === 'storing' ? 'storing' : 'reading'} …
              <progress className="progress w-64" value={step.fraction} max={1} aria-label={step.step} />
            </div>
          ) : read.isError ? (
            <ProblemLine error={read.error} />
          ) : (
            <span className="soft">{missing ?? (metered ? 'Ready: everything was understood.' : WITHOUT_METER)}</span>
          )}
        </div>
        <Link to="/runs" className="btn btn-sm btn-ghost font-normal">
          Back
        </Link>
        <button className="btn btn-primary btn-sm px-6" disabled={missing !== null || step !== null}>
          Read the run
        </button>
      </div>
    </form>
  )
}

/** What a slot of a plan states about its run, over what was typed. */
function statedBy(slot: Shape['SlotRef'], now: Stated, degrees: Degrees): Stated {
  return {
    ...now,
    factors: { ...now.factors, ...slot.factors },
    interval_min: slot.interval_min === null ? now.interval_min : String(slot.interval_min),
    room: slot.ambient_c === null ? now.room : inDegrees(slot.ambient_c, degrees).toFixed(1),
  }
}

let keys = 0
const nextKey = () => ++keys

/** What is still missing before the run can be read, in words; null when nothing is. */
function notReady(files: SentFile[], typed: boolean, checkinsWrong: boolean, heatWrong: boolean, fieldsWrong: boolean): string | null {
  if (files.some((f) => !f.upload && !f.error)) return 'The file is on its way.'
  if (files.some((f) => f.waiting)) return 'The file is being read again.'
  const unread = (f: SentFile) => !f.understanding || f.understanding.problems.length > 0
  const many = files.find((f) => (f.upload?.runs ?? 0) > 1 && unread(f))
  if (many) return `${many.name} holds ${String(many.upload?.runs)} runs: see and store them, or remove it.`
  const open = files.find((f) => f.upload && unread(f))
  if (open) return `Fix or remove this file first: ${open.name}`
  if (checkinsWrong) return 'The check-ins are not understood yet.'
  if (heatWrong) return 'The temperatures are not understood yet.'
  if (fieldsWrong) return 'A number field has text in it.'
  if (!typed && !files.some((f) => f.roles.length > 0)) return 'Nothing to read yet: drop a file, or type percentages.'
  return null
}
