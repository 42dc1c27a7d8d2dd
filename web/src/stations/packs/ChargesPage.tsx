import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import type { Shape } from '../../api/client'
import { queries } from '../../api/queries'
import { ProblemLine } from '../../ui/Problem'
import { unbroken } from '../../ui/text'
import { BASIS } from './basis'
import { PacksTabs } from './PacksTabs'

type Cell = Shape['ChargesShape']

/** Full charges of every phone from every pack, measured ones strong, estimates pale and marked. */
export function ChargesPage() {
  const table = useQuery(queries.packCharges())
  const packs = useQuery(queries.packs()).data?.packs ?? []
  return (
    <div className="px-6 pt-4 pb-8">
      <PacksTabs shown="/packs/charges" />
      {table.error && <ProblemLine error={table.error} />}
      {table.data && (table.data.rows.length === 0 || table.data.phones.length === 0) ? (
        <p className="mt-3 max-w-prose">
          The table needs a pack and a phone on the{' '}
          <Link to="/shelf/kit" className="underline underline-offset-2">
            shelf
          </Link>
          .
        </p>
      ) : (
        <>
          <p className="soft mt-2 max-w-prose text-sm">
            Full charges from one full pack. <b className="text-base-content">Bold</b>: measured, with what the gauges leave open. Pale, after “about”: an
            estimate, with its range and what it rests on.
          </p>
          {packs[0] && <p className="soft max-w-prose text-xs">Cabins: {packs[0].cabin_source}.</p>}
          <div className="mt-3 overflow-x-auto" tabIndex={0} role="region" aria-label="charges, packs and phones">
            <table className="text-sm" aria-label="full charges of every phone">
              <thead>
                <tr className="soft text-left text-xs">
                  <th className="bg-base-100 sticky left-0 pr-6 font-normal">pack</th>
                  {table.data?.phones.map((phone) => (
                    <th key={phone} scope="col" className="pr-6 pb-1 font-normal">
                      {phone}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {table.data?.rows.map((row) => (
                  <tr key={row.pack} className="border-base-300 border-t align-top">
                    <th scope="row" className="bg-base-100 sticky left-0 py-2 pr-6 text-left font-semibold whitespace-nowrap">
                      {row.pack}
                      <About pack={packs.find((p) => p.label === row.pack)} />
                    </th>
                    {table.data.phones.map((phone) => (
                      <td key={phone} className="space-y-1 py-2 pr-6">
                        {row.cells
                          .filter((c) => c.phone.toLowerCase() === phone.toLowerCase())
                          .map((c) => (
                            <ChargesCell key={c.way} cell={c} />
                          ))}
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        </>
      )}
    </div>
  )
}

/** What a delivered watt-hour of a pack costs and weighs, and whether it may fly. */
function About({ pack }: { pack: Shape['PackRow'] | undefined }) {
  if (!pack) return null
  const each = [pack.per_wh !== null && `${pack.per_wh.toFixed(2)} ${pack.currency}`, pack.grams_per_wh !== null && `${pack.grams_per_wh.toFixed(1)} g`].filter(Boolean)
  return (
    <div className="soft max-w-56 text-xs font-normal whitespace-normal">
      {each.length > 0 && <div>{each.join(' and ')} a delivered Wh</div>}
      <div title={pack.cabin_source}>{unbroken(pack.cabin_said)}</div>
    </div>
  )
}

function ChargesCell({ cell }: { cell: Cell }) {
  const measured = cell.basis === 'measured'
  return (
    <div className={`whitespace-nowrap ${measured ? '' : 'soft'}`} title={`${BASIS[cell.basis]}${measured && cell.times > 1 ? `, ${String(cell.times)} charges` : ''}`}>
      <span className="soft inline-block w-9 text-xs">{cell.way}</span>
      <span className={`reading ${measured ? 'font-bold' : ''}`}>
        {!measured && <span className="font-sans text-xs">about </span>}
        {cell.value.toFixed(measured ? 2 : 1)}
      </span>
      <span className="soft ml-2 text-xs">
        {cell.low.toFixed(measured ? 2 : 1)} to {cell.high === null ? 'more' : cell.high.toFixed(measured ? 2 : 1)}
      </span>
      {!measured && <div className="soft ml-9 text-xs">{BASIS[cell.basis]}</div>}
    </div>
  )
}
