import type { Shape } from '../../api/client'
import { Strong } from '../../ui/text'
import { useTablet } from '../../ui/useNarrow'
import { BASIS } from './basis'
import { Walk } from '../../shared/Walk'

type Row = Shape['PackRow']
export type Cell = Shape['ChargesShape']

const money = (amount: number, currency: string) => `${amount.toFixed(2)} ${currency}`

interface Props {
  rows: Row[]
  chosen: string
  onChoose: (label: string) => void
  phones: string[]
  phone: string
  onPhone: (phone: string) => void
  /** Charges of the chosen phone from a pack. */
  cellOf: (row: Row) => Cell | undefined
}

/** Every pack as a row: what was promised in small, what came, the walk of its energy. */
export function PackList(props: Props) {
  const { rows, chosen, onChoose, phones, phone, onPhone, cellOf } = props
  if (useTablet()) return <PackCards {...props} />
  const which = <OfPhone phones={phones} phone={phone} onPhone={onPhone} />
  return (
    <table className="w-full text-sm" aria-label="packs">
      <thead>
        <tr className="soft text-left text-xs">
          <th className="pb-1 font-normal">pack</th>
          <th className="pb-1 font-normal">energy of a full pack, Wh; broken lines are estimates</th>
          <th className="pb-1 pl-4 text-right font-normal">
            {which}
          </th>
          <th className="pb-1 pl-4 text-right font-normal">delivered</th>
          <th className="pb-1 pl-4 text-right font-normal">a Wh delivered</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => (
          <tr key={row.label} className={`border-base-300 border-t align-top ${row.label === chosen ? 'bg-base-200' : ''}`}>
            <td className="py-2 pr-4 pl-1">
              <button
                className="cursor-pointer text-left font-semibold underline-offset-2 hover:underline"
                aria-pressed={row.label === chosen}
                onClick={() => {
                  onChoose(row.label)
                }}
              >
                {row.label}
              </button>
              <Promised row={row} />
              <div className="mt-1 max-w-60">
                <Strong text={row.verdict} />
              </div>
            </td>
            <td className="py-2">
              <Walk stages={row.stages} name={row.label} />
            </td>
            <td className="py-2 pl-4 text-right whitespace-nowrap">
              <Charges cell={cellOf(row)} />
            </td>
            <td className="reading py-2 pl-4 text-right whitespace-nowrap">
              {row.share === null ? <span className="soft">–</span> : `${row.at_least ? 'at least ' : ''}${(100 * row.share).toFixed(0)} %`}
            </td>
            <td className="reading py-2 pr-1 pl-4 text-right whitespace-nowrap">
              {row.per_wh === null && row.grams_per_wh === null && <span className="soft">–</span>}
              {row.per_wh !== null && <div>{money(row.per_wh, row.currency)}</div>}
              {row.grams_per_wh !== null && <div className="soft">{row.grams_per_wh.toFixed(1)} g</div>}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

function Charges({ cell }: { cell: Cell | undefined }) {
  if (!cell) return <span className="soft">–</span>
  const measured = cell.basis === 'measured'
  return (
    <div className={measured ? '' : 'soft'}>
      <div className="reading text-lg">
        {!measured && <span className="font-sans text-xs">about </span>}
        {cell.value.toFixed(measured ? 2 : 1)}
      </div>
      <div className="soft text-xs">
        {cell.low.toFixed(measured ? 2 : 1)} to {cell.high === null ? 'more' : cell.high.toFixed(measured ? 2 : 1)}
      </div>
      <div className="soft text-xs">
        by {cell.way}, {BASIS[cell.basis]}
      </div>
    </div>
  )
}

/** A pack as a card on a narrow screen: its name, the walk of its energy across the whole width, what came of it. */
function PackCards({ rows, chosen, onChoose, phones, phone, onPhone, cellOf }: Props) {
  return (
    <>
      <p className="soft flex flex-wrap items-center gap-x-2 text-xs">
        energy of a full pack, Wh; broken lines are estimates <OfPhone phones={phones} phone={phone} onPhone={onPhone} />
      </p>
      <ul aria-label="packs">
        {rows.map((row) => (
          <li key={row.label} className={`border-base-300 border-t py-2 ${row.label === chosen ? 'bg-base-200' : ''}`}>
            <button
              className="min-h-11 w-full cursor-pointer text-left text-base font-semibold"
              aria-pressed={row.label === chosen}
              onClick={() => {
                onChoose(row.label)
              }}
            >
              {row.label}
            </button>
            <Promised row={row} />
            <Walk stages={row.stages} name={row.label} />
            <p className="mt-1 text-sm">
              <Strong text={row.verdict} />
            </p>
            <div className="flex flex-wrap items-baseline gap-x-5 text-sm">
              <Charges cell={cellOf(row)} />
              {row.share !== null && (
                <span>
                  <span className="reading">{row.at_least ? 'at least ' : ''}{(100 * row.share).toFixed(0)} %</span> <span className="soft text-xs">delivered</span>
                </span>
              )}
              {row.per_wh !== null && (
                <span>
                  <span className="reading">{money(row.per_wh, row.currency)}</span> <span className="soft text-xs">a Wh delivered</span>
                </span>
              )}
            </div>
          </li>
        ))}
      </ul>
    </>
  )
}

function Promised({ row }: { row: Row }) {
  return (
    <div className="soft text-xs">
      {row.rated_mah.toLocaleString('en')}&nbsp;mAh at&nbsp;{row.cell_v}&nbsp;V
      {row.claimed_w !== null && ` · claims ${String(row.claimed_w)} W`}
      {row.price !== null && ` · ${money(row.price, row.currency)}`}
      {row.grams !== null && ` · ${String(row.grams)} g`}
    </div>
  )
}

/** Which phone the charges are of. */
function OfPhone({ phones, phone, onPhone }: Pick<Props, 'phones' | 'phone' | 'onPhone'>) {
  return (
    <>
            {phones.length > 0 ? (
              <label>
                charges of{' '}
                <select
                  className="select select-xs ml-1 w-32"
                  aria-label="charges of which phone"
                  value={phone}
                  onChange={(event) => {
                    onPhone(event.target.value)
                  }}
                >
                  {phones.map((label) => (
                    <option key={label}>{label}</option>
                  ))}
                </select>
              </label>
            ) : (
              'full charges'
            )}
    </>
  )
}
