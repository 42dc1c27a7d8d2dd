import { queries } from '../../api/queries'
import { useQuery } from '@tanstack/react-query'
import type { RefObject } from 'react'

/** What the entry line takes, from the parser itself. */
export function EntryHelp({ ref }: { ref: RefObject<HTMLDialogElement | null> }) {
  const help = useQuery(queries.entryHelp())
  return (
    <dialog ref={ref} className="modal" aria-label="typing help">
      <div className="modal-box max-w-lg">
        <h2 className="mb-2 text-lg font-bold">The entry line</h2>
        <p className="soft mb-2 text-sm">
          The lane, then what you see there; several figures in one line are fine, and so is a decimal comma. With only one lane open, leave its letter out.
        </p>
        <table className="table-sm table">
          <tbody>
            {(help.data ?? []).map((row) => (
              <tr key={row.example}>
                <th scope="row" className="reading w-40 font-medium whitespace-nowrap">
                  {row.example}
                </th>
                <td>{row.says}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <form method="dialog" className="modal-action">
          <button className="btn btn-sm">Close</button>
        </form>
      </div>
    </dialog>
  )
}
