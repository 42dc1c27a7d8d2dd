import { useRereading } from '../api/useRereading'

/** That stored runs are read anew, and how far that has come; nothing while none is. */
export function RereadingLine() {
  const reanalysis = useRereading()
  if (!reanalysis || reanalysis.left === 0) return null
  const done = reanalysis.of - reanalysis.left
  return (
    <span className="ml-4 flex items-center gap-2 text-xs" role="status">
      reading runs again, {done} of {reanalysis.of}
      <progress className="progress h-1.5 w-20" value={done} max={reanalysis.of} aria-label="runs read again" />
    </span>
  )
}
