import { queries } from '../../api/queries'
import { useMutation, useQuery } from '@tanstack/react-query'
import { api, taken, type Shape } from '../../api/client'
import { ProblemLine } from '../../ui/Problem'
import { whenAt } from '../../ui/times'

/** Readings that were sent and could not be stored: what they were and why, to be saved or let go. */
export function AsidePage() {
  const aside = useQuery(queries.aside())
  const forget = useMutation({
    mutationFn: async () => taken(await api.DELETE('/api/bench/aside')),
    onSuccess: () => void aside.refetch(),
  })
  const setAside = aside.data
  return (
    <div className="max-w-5xl px-5 pt-3 pb-6 max-sm:px-3">
      <h1 className="text-xl font-bold">Readings set aside</h1>
      {setAside && setAside.batches > 0 && (
        <p className="soft mt-1 max-w-2xl text-sm">
          These could not be stored, and the meter will not send them again. Everything after them was stored. Save them if they matter, then delete them.
        </p>
      )}
      {(aside.isError || forget.isError) && <ProblemLine error={aside.error ?? forget.error} />}
      {setAside && setAside.batches === 0 && <p className="mt-6">Nothing is set aside.</p>}
      {setAside && setAside.batches > 0 && (
        <>
          <div className="mt-3 flex gap-2">
            <button
              className="btn btn-sm btn-primary"
              onClick={() => {
                save(setAside)
              }}
            >
              Save them as JSON
            </button>
            <button
              className="btn btn-sm btn-outline border-base-300"
              disabled={forget.isPending}
              onClick={() => {
                if (window.confirm(`Delete ${String(setAside.batches)} batches of readings for good?`)) forget.mutate()
              }}
            >
              Delete them
            </button>
          </div>
          <table className="table-sm mt-3 table">
            <thead>
              <tr>
                <th>when</th>
                <th>from</th>
                <th className="text-right">readings</th>
                <th>why</th>
              </tr>
            </thead>
            <tbody>
              {setAside.last.map((b) => (
                <tr key={b.id}>
                  <td className="whitespace-nowrap">{whenAt(b.at, zone)}</td>
                  <td className="max-w-60 break-words">{b.source}</td>
                  <td className="reading text-right">{b.readings}</td>
                  <td className="break-words">{b.why}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {setAside.batches > setAside.last.length && (
            <p className="soft mt-2 text-sm">
              The last {setAside.last.length} of {setAside.batches} are shown.
            </p>
          )}
        </>
      )}
    </div>
  )
}

const zone = Intl.DateTimeFormat().resolvedOptions().timeZone

function save(setAside: Shape['PutAsideShape']) {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(new Blob([JSON.stringify(setAside.last, null, 1)], { type: 'application/json' }))
  link.download = 'readings-put-aside.json'
  link.click()
  URL.revokeObjectURL(link.href)
}
