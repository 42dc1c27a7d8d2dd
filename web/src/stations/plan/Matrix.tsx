import type { Shape } from '../../api/client'
import type { Kit } from '../../api/useKit'
import { duration } from '../../ui/format'
import { piecesFor } from '../../shared/pieces'
import { toggled, withCell, type Draft } from './draft'
import { Levels } from './Levels'
import { Chip, Row } from './rows'
import { Wide } from '../../ui/Wide'

interface Props {
  draft: Draft
  onDraft: (draft: Draft) => void
  kit: Kit[]
  factors: Shape['FactorShape'][]
  cells: Shape['CellShape'][]
}

/** Kit and conditions to choose from, and the matrix that they make. */
export function Matrix({ draft, onDraft, kit, factors, cells }: Props) {
  const { choice } = draft
  const set = (change: Partial<Draft['choice']>) => {
    onDraft({ ...draft, choice: { ...choice, ...change } })
  }
  const chargers = piecesFor(kit, 'charger').flatMap((k) => k.places.map((place) => ({ id: k.id, place, label: place ? `${k.label}, ${place}` : k.label })))
  const picked = (id: string, place: string) => choice.chargers.some((c) => c.id === id && (c.place ?? '') === place)
  return (
    <fieldset className="mt-4">
      <legend className="text-base font-bold">What to run</legend>
      <Row text="phones">
        {kit
          .filter((k) => k.kind === 'phone')
          .map((k) => (
            <Chip key={k.id} text={k.label} on={choice.phones.includes(k.id)} onClick={() => { set({ phones: toggled(choice.phones, k.id) }) }} />
          ))}
      </Row>
      <Row text="on">
        {chargers.map((c) => (
          <Chip
            key={c.id + c.place}
            text={c.label}
            on={picked(c.id, c.place)}
            onClick={() => {
              set({
                chargers: picked(c.id, c.place)
                  ? choice.chargers.filter((x) => !(x.id === c.id && (x.place ?? '') === c.place))
                  : [...choice.chargers, { id: c.id, place: c.place }],
              })
            }}
          />
        ))}
        <Chip text="wired baseline" on={choice.wired} onClick={() => { set({ wired: !choice.wired }) }} />
      </Row>
      <Row text="fed by">
        <select
          className="select select-sm w-60"
          aria-label="adapter"
          value={choice.adapter ?? ''}
          onChange={(e) => {
            set({ adapter: e.target.value || null })
          }}
        >
          <option value="">each its best: what a buyer gets</option>
          {piecesFor(kit, 'adapter').map((k) => (
            <option key={k.id} value={k.id}>
              {k.label} for all: isolates the charger
            </option>
          ))}
        </select>
        <select
          className="select select-sm w-44"
          aria-label="cable"
          value={choice.cable ?? ''}
          onChange={(e) => {
            set({ cable: e.target.value || null })
          }}
        >
          <option value="">any cable</option>
          {piecesFor(kit, 'cable').map((k) => (
            <option key={k.id} value={k.id}>
              {k.label}
            </option>
          ))}
        </select>
      </Row>
      <Levels draft={draft} onDraft={onDraft} kit={kit} factors={factors} />
      {cells.length > 0 && <Table draft={draft} onDraft={onDraft} cells={cells} />}
    </fieldset>
  )
}

interface TableProps {
  draft: Draft
  onDraft: (draft: Draft) => void
  cells: Shape['CellShape'][]
}

/** The cells: ticked are run; greyed ones teach little, and can be forced. */
function Table({ draft, onDraft, cells }: TableProps) {
  const phones = [...new Set(cells.map((c) => c.phone))]
  const rowOf = (c: Shape['CellShape']) => [c.row, ...c.conditions].join(', ')
  const rows = [...new Set(cells.map(rowOf))]
  const known = new Map(cells.map((c) => [`${rowOf(c)}|${c.phone}`, c]))
  return (
    <div className="mt-3 max-h-72 overflow-auto">
      <Wide className="w-full text-sm" aria-label="matrix">
        <thead className="bg-base-100 sticky top-0">
          <tr>
            <th />
            {phones.map((p) => (
              <th key={p} scope="col" title={p} className="border-base-300 max-w-40 truncate border-b px-2 py-1 text-left font-semibold">
                {p}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row} className="border-base-300 border-b">
              <th scope="row" className="max-w-56 truncate py-1 pr-3 text-left font-normal" title={row}>
                {row}
              </th>
              {phones.map((phone) => {
                const cell = known.get(`${row}|${phone}`)
                return (
                  <td key={phone} className="px-2 py-0.5">
                    {cell && (
                      <label
                        className={`flex min-w-28 cursor-pointer items-baseline gap-2 ${cell.pointless && !cell.wanted ? 'soft' : ''}`}
                        title={cell.pointless || `${phone} on ${row}${cell.adapter ? `, ${cell.adapter}` : ''}`}
                      >
                        <input
                          type="checkbox"
                          className="checkbox checkbox-xs translate-y-0.5"
                          aria-label={`${phone} on ${row}`}
                          checked={cell.wanted}
                          onChange={() => {
                            onDraft({ ...draft, choice: withCell(draft.choice, cell) })
                          }}
                        />
                        <span className="min-w-0">
                          {cell.pointless ? (
                            <span className="line-clamp-2 max-w-52 text-xs">
                              {cell.wanted && <b>forced: </b>}
                              {cell.pointless}
                            </span>
                          ) : (
                            <>{cell.minutes === null ? 'left out' : duration(cell.minutes)}</>
                          )}
                        </span>
                      </label>
                    )}
                  </td>
                )
              })}
            </tr>
          ))}
        </tbody>
      </Wide>
    </div>
  )
}
