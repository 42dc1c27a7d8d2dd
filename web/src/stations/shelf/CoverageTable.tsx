import { useMemo, useRef, useState, type KeyboardEvent } from 'react'
import type { ChainChoice } from '../../api/useChain'
import { useCoverage, type Coverage } from '../../api/useCoverage'
import type { Kit } from '../../api/useKit'
import { clock, degreesText, duration } from '../../ui/format'
import { ProblemLine } from '../../ui/Problem'
import { useSettings } from '../../reader/settings'
import { useNarrow } from '../../ui/useNarrow'
import { NONE } from './choice'
import type { Choose } from './choice'

type Row = Coverage['rows'][number]
type Cell = Row['cells'][number]

const FILTERS = {
  all: ['all pairs', () => true],
  claim: ['meets its claim', (c: Cell) => c.meets_claim === true],
  short: ['misses its claim', (c: Cell) => c.meets_claim === false],
  hot: ['likely hot', (c: Cell) => c.likely_hot],
  worth: ['worth testing', (c: Cell) => !c.not_worth],
  not: ['not worth testing', (c: Cell) => Boolean(c.not_worth)],
} as const satisfies Record<string, readonly [string, (cell: Cell) => boolean]>
type Filter = keyof typeof FILTERS
/** Up to this many phones a cell has room for its watts and its time side by side. */
const WIDE = 6
const LABEL_PX = 236
const NARROW_LABEL_PX = 118
const LEAST_PX = 68
const LEAST_WIDE_PX = 122

interface Props {
  kit: Kit[]
  choice: ChainChoice
  choose: Choose
  kitKey: unknown
}

/** Every charger with every phone: watts that arrive as width, time to 80 %, and which pairs are worth a run. */
export function CoverageTable({ kit, choice, choose, kitKey }: Props) {
  const { degrees } = useSettings()
  const narrow = useNarrow()
  const labelPx = narrow ? NARROW_LABEL_PX : LABEL_PX
  const [filter, setFilter] = useState<Filter>('all')
  const [asked, setEach] = useState<boolean | null>(null)
  const each = asked ?? Boolean(choice.best_adapter)
  const [at, setAt] = useState<[number, number]>([0, 0])
  const [looked, setLooked] = useState<[number, number] | null>(null)
  const grid = useRef<HTMLTableElement>(null)
  const wanted = useMemo(
    () => ({ adapter: each ? null : choice.adapter, cable: choice.cable, case: choice.case, around: choice.around }),
    [each, choice.adapter, choice.cable, choice.case, choice.around],
  )
  const table = useCoverage(wanted, kitKey, true)
  const label = (id: string | null) => kit.find((k) => k.id === id)?.label ?? ''
  const most = Math.max(1, ...(table.data?.rows ?? []).filter((r) => r.charger).flatMap((r) => r.cells.map((c) => c.delivered_w.likely ?? 0)))
  const wide = !narrow && (table.data?.phones.length ?? 0) <= WIDE
  const seen = looked && table.data?.rows[looked[0]]
  const seenCell = looked && seen?.cells[looked[1]]

  const take = (row: Row, cell: Cell) => {
    choose({
      charger: row.charger ?? NONE,
      place: row.place || null,
      phone: cell.phone,
      ...(each && cell.adapter ? { adapter: cell.adapter } : {}),
    })
  }
  const move = (event: KeyboardEvent) => {
    const step = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }[event.key]
    if (!step || !table.data) return
    event.preventDefault()
    event.stopPropagation()
    const row = Math.min(table.data.rows.length - 1, Math.max(0, at[0] + (step[0] ?? 0)))
    const column = Math.min(table.data.phones.length - 1, Math.max(0, at[1] + (step[1] ?? 0)))
    setAt([row, column])
    grid.current?.querySelector<HTMLElement>(`[data-cell="${String(row)}-${String(column)}"]`)?.focus()
  }
  return (
    <section aria-label="every charger with every phone" className="mt-2">
      <div className="flex flex-wrap items-center gap-3 pb-1">
        <h2 className="text-lg font-bold">Worth testing?</h2>
        <span className="soft text-sm">watts that arrive, hours to 80 %; best of a phone in bold</span>
        <select
          className="select select-xs w-auto"
          aria-label="show pairs"
          value={filter}
          onChange={(e) => {
            setFilter(e.target.value as Filter)
          }}
        >
          {Object.entries(FILTERS).map(([name, [text]]) => (
            <option key={name} value={name}>
              {text}
            </option>
          ))}
        </select>
        <select
          className="select select-xs w-auto max-w-full"
          aria-label="adapters of the table"
          value={each ? 'each' : 'one'}
          onChange={(e) => {
            setEach(e.target.value === 'each')
          }}
        >
          <option value="one">all with {label(choice.adapter ?? null) || 'no adapter'}: compares chargers</option>
          <option value="each">each with its best adapter: what a buyer gets</option>
        </select>
        {table.isFetching && (
          <progress
            className="progress progress-primary w-40"
            aria-label="forecasting every pair"
            value={table.fraction}
            max={1}
          />
        )}
      </div>
      {table.isError && <ProblemLine error={table.error} />}
      {table.data && (
        <div className="scrolls-within overflow-x-auto">
          <table
            ref={grid}
            className="w-full table-fixed border-collapse text-sm"
            style={{ minWidth: labelPx + table.data.phones.length * (wide ? LEAST_WIDE_PX : LEAST_PX) }}
            onKeyDown={move}
          >
            <thead>
              <tr className="border-base-300 border-b align-bottom">
                <th scope="col" className="soft py-1 pr-2 text-left text-xs font-normal" style={{ width: labelPx }}>
                  charger, phone
                </th>
                {table.data.phones.map((p) => (
                  <th key={p} scope="col" className="px-1 py-1 text-left align-bottom leading-tight font-semibold">
                    <span className={`line-clamp-3 break-words ${wide ? '' : 'text-xs'}`} title={label(p)}>
                      {label(p)}
                    </span>
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {table.data.rows.map((row, i) => (
                <tr key={`${String(row.charger)}${row.place}`} className="border-base-300 border-b">
                  <th scope="row" className="py-0.5 pr-2 text-left leading-tight font-normal">
                    <b className="mr-1.5 line-clamp-2 inline font-semibold break-words" title={row.label}>
                      {row.label}
                    </b>
                    {row.claimed_w !== null && <span className="soft text-xs whitespace-nowrap">claims {row.claimed_w} W</span>}
                  </th>
                  {row.cells.map((cell, j) => (
                    <td key={cell.phone} className="p-0">
                      <CellButton
                        cell={cell}
                        most={most}
                        wide={wide}
                        faded={!FILTERS[filter][1](cell)}
                        chosen={cell.phone === choice.phone && row.charger === choice.charger && (!row.place || row.place === choice.place)}
                        id={`${String(i)}-${String(j)}`}
                        reachable={at[0] === i && at[1] === j}
                        label={`${row.label} with ${label(cell.phone)}`}
                        onTake={() => {
                          take(row, cell)
                        }}
                        onLook={() => {
                          setLooked([i, j])
                        }}
                        onFocus={() => {
                          setAt([i, j])
                          setLooked([i, j])
                        }}
                      />
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
          <p className="mt-1.5 min-h-10 text-sm" role="status">
            {seen && seenCell ? (
              <>
                <b>
                  {seen.label} with {label(seenCell.phone)}
                </b>
                {seenCell.adapter && each ? ` on ${label(seenCell.adapter)}` : ''}: {sayCell(seenCell)}; hottest{' '}
                {degreesText(seenCell.hottest_c, degrees)} °{degrees}
                {seenCell.likely_hot ? ', heat takes power away' : ''}; narrowest: {seenCell.narrowest}, {seenCell.why}.
                {seenCell.not_worth && <b className="text-warning"> Not worth a run: {seenCell.not_worth}.</b>}
              </>
            ) : (
              <span className="soft">Point at a pair, or move with the arrow keys; Enter shows its chain above.</span>
            )}
          </p>
        </div>
      )}
    </section>
  )
}

const sayCell = (c: Cell) => {
  const watts = `${(c.delivered_w.low ?? 0).toFixed(1)} to ${(c.delivered_w.high ?? 0).toFixed(1)} W arrive`
  const time = c.to_80.likely === null ? '80 % is not reached' : `80 % in ${duration(c.to_80.likely)}`
  const range = c.to_80.low !== null && c.to_80.high !== null ? ` (${duration(c.to_80.low)} to ${duration(c.to_80.high)})` : ''
  return `${watts}, ${time}${range}`
}

interface CellProps {
  cell: Cell
  most: number
  wide: boolean
  faded: boolean
  chosen: boolean
  reachable: boolean
  id: string
  label: string
  onTake: () => void
  onLook: () => void
  onFocus: () => void
}

function CellButton({ cell, most, wide, faded, chosen, reachable, id, label, onTake, onLook, onFocus }: CellProps) {
  const watts = cell.delivered_w.likely ?? 0
  const time = cell.to_80.likely === null ? 'never' : clock(cell.to_80.likely)
  const mark = cell.not_worth ? 'not worth it' : cell.likely_hot ? 'hot' : ''
  return (
    <button
      data-cell={id}
      tabIndex={reachable ? 0 : -1}
      aria-pressed={chosen}
      className={`hover:bg-base-200 flex w-full cursor-pointer items-center px-1 -outline-offset-2 ${wide ? 'h-8 gap-1.5 max-sm:h-11' : 'h-11 flex-wrap content-center gap-x-1 text-[13px] leading-4'} ${faded ? 'opacity-25' : ''} ${chosen ? 'bg-accent' : ''}`}
      onClick={onTake}
      onMouseEnter={onLook}
      onFocus={onFocus}
    >
      <span className="sr-only">{`${label}: ${sayCell(cell)}${mark ? `, ${mark}` : ''}`}</span>
      <span aria-hidden className={`reading whitespace-nowrap ${cell.best ? 'font-bold' : ''} ${cell.not_worth ? 'soft' : ''}`}>
        {watts.toFixed(1)} W
      </span>
      <span className={`${wide ? 'min-w-6 grow' : 'w-full'} block`}>
        <span
          className={`block ${wide ? 'h-2.5' : 'h-1'} ${cell.not_worth ? 'border-base-content border border-dotted' : 'bg-base-content/30'}`}
          style={{ width: `${String(Math.min(100, Math.max(2, (watts / most) * 100)))}%` }}
        />
      </span>
      <span aria-hidden className={`reading whitespace-nowrap ${cell.best ? 'font-bold' : ''} ${cell.not_worth ? 'soft' : ''}`}>{time}</span>
      <span aria-hidden className={`text-warning text-left text-xs ${wide ? 'w-7' : ''}`}>
        {cell.likely_hot && !cell.not_worth ? (wide ? 'hot' : '!') : ''}
      </span>
    </button>
  )
}
