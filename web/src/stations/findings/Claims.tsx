import { Told } from './Told'
import type { Finding } from './useFinding'
import { Wide } from '../../ui/Wide'

const COLOUR = { supported: 'text-success', 'not supported': 'text-error', 'cannot be told': '' } as const

/** What makers and sellers claim, held against what was measured. */
export function Claims({ rows }: { rows: Finding['draft']['claims'] }) {
  if (rows.length === 0) return null
  return (
    <section aria-label="claims" className="mt-5">
      <h2 className="soft text-xs font-semibold">claims</h2>
      <div className="overflow-x-auto">
        <Wide least={36} className="table-sm table">
          <thead className="text-secondary">
            <tr>
              <th>of</th>
              <th>claim</th>
              <th>on</th>
              <th>found</th>
              <th>measured</th>
              <th>read as</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={row.sentence.key} className="align-top">
                <td>{row.about}</td>
                <td>
                  “{row.claim}”{row.by_maker && <span className="soft block text-xs">its maker</span>}
                </td>
                <td>{row.on}</td>
                <td className="whitespace-nowrap">
                  <b className={COLOUR[row.found]}>{row.found}</b>
                </td>
                <td className="min-w-52">
                  <Told sentence={row.sentence} />
                </td>
                <td className="soft text-xs">{row.reading}</td>
              </tr>
            ))}
          </tbody>
        </Wide>
      </div>
    </section>
  )
}
