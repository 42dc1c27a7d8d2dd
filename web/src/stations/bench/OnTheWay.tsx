import type { Outbox, Queued } from '../../api/outbox'
import { useWaiting } from '../../api/useBench'

const SHOWN = 8

interface Props {
  box: Outbox
  /** Puts a line back where it can be changed. */
  onEdit: (line: string) => void
}

/** Lines that were typed and are not logged yet: each until it is, and what is asked about one. */
export function OnTheWay({ box, onEdit }: Props) {
  const lines = useWaiting(box)
  const going = lines.filter((l) => l.state !== 'held')
  const held = lines.filter((l) => l.state === 'held')
  if (lines.length === 0) return null
  const away = going.some((l) => l.state === 'waits')
  return (
    <div className="border-base-300 bg-base-200 border-t px-5 py-1.5 text-sm">
      {held.length > 0 && (
        <ul aria-label="lines that are asked about">
          {held.map((l) => (
            <Held key={l.id} line={l} box={box} onEdit={onEdit} />
          ))}
        </ul>
      )}
      {going.length > 0 && (
        <ul aria-label="lines on their way" className="flex flex-wrap items-center gap-2">
          {going.slice(0, SHOWN).map((l) => (
            <li key={l.id} className={`reading rounded border px-1.5 ${l.state === 'waits' ? 'border-warning border-dashed' : 'border-base-300'}`}>
              {l.line} …
            </li>
          ))}
          {going.length > SHOWN && <li className="soft">and {going.length - SHOWN} more</li>}
          {away && <li className="bg-primary text-primary-content px-2 py-0.5 text-xs font-semibold">{going.length} wait to be sent</li>}
        </ul>
      )}
    </div>
  )
}

function Held({ line, box, onEdit }: { line: Queued; box: Outbox; onEdit: (line: string) => void }) {
  const { asked } = line
  const instead = asked?.instead
  return (
    <li className="flex flex-wrap items-center gap-2 py-0.5">
      <b className="reading font-semibold">{line.line}</b>
      <span>{asked?.said}</span>
      {instead && (
        <button
          className="btn btn-xs btn-neutral"
          onClick={() => {
            box.confirm(line.id, instead.line)
          }}
        >
          {instead.said}
        </button>
      )}
      {asked?.sure && (
        <button
          className={`btn btn-xs ${instead ? 'btn-outline' : 'btn-neutral'}`}
          onClick={() => {
            box.confirm(line.id)
          }}
        >
          {instead ? instead.keep : 'Log it'}
        </button>
      )}
      <button
        className="btn btn-xs btn-ghost font-normal"
        onClick={() => {
          onEdit(box.drop(line.id))
        }}
      >
        Edit
      </button>
      <button
        className="btn btn-xs btn-ghost font-normal"
        onClick={() => {
          box.drop(line.id)
        }}
      >
        Drop
      </button>
    </li>
  )
}
