import { Link } from 'react-router'
import { useRef, useState } from 'react'
import type { Shape } from '../../api/client'
import { bytes } from '../../ui/format'
import { ProblemLine } from '../../ui/Problem'
import type { Choice, Role, SentFile, Understanding } from './files'
import { MappingLine } from './MappingLine'
import { understoodAnew } from './understoodAnew'
import { WhoseClock } from './WhoseClock'
import { Wide } from '../../ui/Wide'

const QUANTITIES: [Shape['ColumnChoice']['quantity'], string][] = [
  ['time', 'time'],
  ['volts', 'volts'],
  ['amps', 'amps'],
  ['watts', 'watts'],
  ['phone_watts', 'watts as the phone reports'],
  ['phone_volts', "volts of the phone's battery"],
  ['phone_amps', "amps into the phone's battery"],
  ['energy', 'energy counter'],
  ['charge', 'charge counter'],
  ['percent', 'battery %'],
  ['celsius', 'temperature'],
  ['position', 'place of probe'],
  ['ignore', 'leave out'],
]
const TIME_FORMS: NonNullable<Understanding['time_form']>[] = [
  'seconds', 'minutes', 'hours', 'milliseconds', 'h:mm:ss', 'mm:ss', 'epoch, s', 'epoch, ms', 'epoch, µs', 'date and time',
]
/** A meter stands inline or at the socket. */
const EITHER: Partial<Record<Role, Role>> = { meter: 'socket', socket: 'meter' }
const SEPARATORS: Record<string, string> = { ',': 'commas', ';': 'semicolons', '\t': 'tabs', '|': 'bars' }

interface Props {
  file: SentFile
  roleNames: Record<Role, string>
  clock: Shape['ClockOfFile'] | undefined
  onChange: (change: Partial<SentFile>) => void
  onRemove: () => void
}

/** A file as it was understood, column by column, to be put right where it is wrong. */
export function FileCard({ file, roleNames, clock, onChange, onRemove }: Props) {
  const [wrong, setWrong] = useState<unknown>(null)
  const understood = file.understanding
  const runs = file.upload?.runs ?? 0
  const asked = useRef(0)
  const putRight = (change: Choice) => {
    if (!file.upload) return
    const choice = { ...file.choice, ...change }
    const now = ++asked.current
    // The choice holds at once; what it makes of the file comes later, and only the latest answer counts.
    onChange({ choice, waiting: true })
    understoodAnew(file.upload.id, { columns: {}, ...choice })
      .then((understanding) => {
        if (now !== asked.current) return
        setWrong(null)
        const roles = file.roles.filter((r) => understanding.gives.includes(r))
        const fresh = understanding.gives.filter((r) => r !== 'socket' && !understood?.gives.includes(r))
        onChange({ understanding, waiting: false, roles: [...new Set([...roles, ...fresh])] })
      })
      .catch((error: unknown) => {
        if (now !== asked.current) return
        setWrong(error)
        onChange({ choice: file.choice, waiting: false })
      })
  }
  const column = (index: number, quantity: Shape['ColumnChoice']['quantity'], unit: string | null) => {
    putRight({ columns: { ...file.choice.columns, [index]: { quantity, unit } } })
  }
  return (
    <div className="border-base-300 rounded border" data-testid="file">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1 px-3 py-2">
        <b className="max-w-72 truncate" title={file.name}>
          {file.name}
        </b>
        {file.upload && <span className="soft text-sm">{bytes(file.upload.size)}</span>}
        {understood && (
          <span className="soft text-sm">
            {understood.delimiter ? SEPARATORS[understood.delimiter] : `sheet ${understood.sheet ?? ''}`}, decimal {understood.comma ? 'comma' : 'point'}
          </span>
        )}
        {understood && understood.sheets.length > 1 && (
          <select
            className="select select-xs w-32"
            aria-label="sheet"
            value={understood.sheet ?? ''}
            onChange={(e) => {
              putRight({ sheet: e.target.value, columns: {}, time_form: null })
            }}
          >
            {understood.sheets.map((s) => (
              <option key={s}>{s}</option>
            ))}
          </select>
        )}
        {understood && understood.gives.length > 0 && (
          <span className="flex gap-3 text-sm">
            {understood.gives.map((role) => (
              <label key={role} className="flex items-center gap-1.5">
                <input
                  type="checkbox"
                  className="checkbox checkbox-xs"
                  checked={file.roles.includes(role)}
                  onChange={(e) => {
                    const other = EITHER[role]
                    onChange({ roles: e.target.checked ? [...file.roles.filter((r) => r !== other), role] : file.roles.filter((r) => r !== role) })
                  }}
                />
                {roleNames[role]}
              </label>
            ))}
          </span>
        )}
        <button type="button" className="soft ml-auto cursor-pointer text-sm underline" onClick={onRemove}>
          remove
        </button>
      </div>
      {!file.upload && !file.error && (
        <div className="flex items-center gap-3 px-3 pb-3 text-sm" role="status">
          {file.sent < 1 ? `sending, ${(file.sent * 100).toFixed(0)} %` : 'looking at it …'}
          <progress className="progress w-64" value={file.sent} max={1} aria-label={`sending ${file.name}`} />
        </div>
      )}
      {file.error !== undefined && (
        <div className="px-3 pb-3">
          <ProblemLine error={file.error} />
        </div>
      )}
      {wrong !== null && (
        <div className="px-3 pb-2">
          <ProblemLine error={wrong} />
        </div>
      )}
      {file.upload && file.upload.read_before.length > 0 && (
        <p className="text-warning px-3 pb-2 text-sm">
          The same file was read before: {file.upload.read_before.map((r) => r.label + (r.simulated ? ' (simulated)' : '')).join(', ')}.
        </p>
      )}
      {understood && <MappingLine file={file} onChoice={putRight} />}
      {file.upload && runs > 1 && (
        <p className="bg-accent mx-3 mb-2 flex items-center gap-4 px-3 py-2 text-sm">
          <span>
            <b>{runs} runs</b> are in it.
          </span>
          <Link className="btn btn-primary btn-sm" to={`/runs/many/${file.upload.id}`}>
            See and store them
          </Link>
        </p>
      )}
      {runs < 2 && understood?.problems.map((p) => (
        <p key={p} role="alert" className="text-error border-error mx-3 mb-2 border-l-4 px-3 text-sm">
          {p}
        </p>
      ))}
      {clock && (
        <WhoseClock
          clock={clock}
          whose={file.whose ?? null}
          onWhose={(whose) => {
            onChange({ whose })
          }}
        />
      )}
      {understood && (runs < 2 || understood.problems.length === 0) && <Columns understood={understood} onColumn={column} onTimeForm={(time_form) => { putRight({ time_form }) }} />}
    </div>
  )
}

interface ColumnsProps {
  understood: Understanding
  onColumn: (index: number, quantity: Shape['ColumnChoice']['quantity'], unit: string | null) => void
  onTimeForm: (form: Understanding['time_form']) => void
}

function Columns({ understood, onColumn, onTimeForm }: ColumnsProps) {
  return (
    <div className="overflow-x-auto">
      <Wide least={26} className="w-full text-sm">
        <thead>
          <tr className="bg-base-200 align-top">
            {understood.columns.map((c) => {
              const name = c.heading || `column ${String(c.index + 1)}`
              return (
                <th key={c.index} scope="col" className="min-w-28 px-2 py-2 text-left font-normal">
                  <span className="mb-1 block truncate font-semibold" title={name}>
                    {name}
                  </span>
                  <span className="flex gap-1">
                    <select
                      className="select select-xs min-w-20 grow"
                      aria-label={`what “${name}” is`}
                      value={c.quantity}
                      onChange={(e) => {
                        onColumn(c.index, e.target.value as typeof c.quantity, null)
                      }}
                    >
                      {QUANTITIES.map(([value, text]) => (
                        <option key={value} value={value}>
                          {text}
                        </option>
                      ))}
                    </select>
                    {c.quantity === 'time' && understood.time_form && (
                      <select
                        className="select select-xs w-24"
                        aria-label="form of time"
                        value={understood.time_form}
                        onChange={(e) => {
                          onTimeForm(e.target.value as Understanding['time_form'])
                        }}
                      >
                        {TIME_FORMS.map((f) => (
                          <option key={f}>{f}</option>
                        ))}
                      </select>
                    )}
                    {c.quantity !== 'time' && c.units.length > 1 && (
                      <select
                        className="select select-xs w-14"
                        aria-label={`unit of “${name}”`}
                        value={c.unit ?? ''}
                        onChange={(e) => {
                          onColumn(c.index, c.quantity, e.target.value)
                        }}
                      >
                        {c.units.map((u) => (
                          <option key={u}>{u}</option>
                        ))}
                      </select>
                    )}
                  </span>
                  <span className="soft mt-1 block text-xs leading-tight">{c.quantity === 'celsius' ? `${c.place}; ${c.why}` : c.why}</span>
                </th>
              )
            })}
          </tr>
        </thead>
        <tbody className="reading">
          {understood.first_rows.map((row, i) => (
            <tr key={i} className="border-base-300 border-t">
              {row.map((cell, j) => (
                <td key={j} className={`px-2 py-0.5 ${understood.columns[j]?.quantity === 'ignore' ? 'soft line-through' : ''}`}>
                  {cell}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </Wide>
    </div>
  )
}
