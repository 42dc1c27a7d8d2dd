import { useRereading } from '../api/useRereading'

/** That stored runs are read anew, and how far that has come; nothing while none is. */
export function RereadingLine() {
  const found = useRereading()
  if (!found || found.left === 0) return null
  const done = found.of - found.left
  return (
    <span className="ml-4 flex items-center gap-2 text-xs" role="status">
      reading runs again, {done} of {found.of}
      <progress className="progress h-1.5 w-20" value={done} max={found.of} aria-label="runs read again" />
    </span>
  )
}
