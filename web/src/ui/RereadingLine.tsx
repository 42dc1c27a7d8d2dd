import { Link } from 'react-router'
import { useRereading } from '../api/useRereading'

/** That stored runs are read anew, and how far that has come; that a job has failed; nothing while neither is so. */
export function RereadingLine() {
  const reanalysis = useRereading()
  if (!reanalysis) return null
  const done = reanalysis.of - reanalysis.left
  return (
    <>
      {reanalysis.left > 0 && (
        <Link to="/jobs" className="ml-4 flex items-center gap-2 text-xs" role="status">
          reading runs again, {done} of {reanalysis.of}
          <progress className="progress h-1.5 w-20" value={done} max={reanalysis.of} aria-label="runs read again" />
        </Link>
      )}
      {reanalysis.failed > 0 && (
        <Link to="/jobs" className="border-error ml-4 border-l-4 px-2 text-xs whitespace-nowrap">
          {reanalysis.failed === 1 ? '1 job failed' : `${reanalysis.failed} jobs failed`}
        </Link>
      )}
    </>
  )
}
