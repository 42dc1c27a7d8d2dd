import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { api, taken, type Shape } from '../api/client'
import { queries } from '../api/queries'
import { percent } from './format'
import { ProblemLine } from './Problem'
import { useNetwork } from './SignInPage'
import { momentAt, ZONE } from './times'

type Job = Shape['JobShape']

const SOON_MS = 1000
const LATER_MS = 5000

/** The heavy work that goes on apart from the pages: what runs, what waits, what has failed and why. */
export function JobsPage() {
  const jobs = useQuery({
    ...queries.jobs(),
    refetchInterval: (query) => (query.state.data?.running.length ? SOON_MS : LATER_MS),
  })
  const all = jobs.data
  return (
    <div className="max-w-5xl px-5 pt-3 pb-8 max-sm:px-3">
      <h1 className="text-xl font-bold">Jobs</h1>
      <p className="soft mt-1 max-w-2xl text-sm">
        Heavy work that goes on in the background: runs read again, tables and schedules worked out, packages and PDFs written. Whoever waits
        for a page goes first.
      </p>
      {jobs.isError && <ProblemLine error={jobs.error} />}
      {all && (
        <>
          {!all.worker && all.waiting.length > 0 && (
            <p className="border-warning mt-3 border-l-4 pl-3">
              No worker is there to do them. One comes with the application within seconds; if none does, start one with{' '}
              <code>jaunecharge worker</code>.
            </p>
          )}
          <Part title="Failed" jobs={all.failed} count={all.counts.failed} none="" />
          <Part title="Running" jobs={all.running} count={all.counts.running} none="Nothing runs just now." />
          <Part title="Waiting" jobs={all.waiting} count={all.counts.waiting} none="" />
          <Part title="Over, in the last 24 hours" jobs={all.ended} count={(all.counts.done ?? 0) + (all.counts.cancelled ?? 0)} none="" />
        </>
      )}
    </div>
  )
}

function Part({ title, jobs, count = 0, none }: { title: string; jobs: Job[]; count?: number; none: string }) {
  if (jobs.length === 0 && !none) return null
  return (
    <section className="mt-5" aria-label={title}>
      <h2 className="font-bold">
        {title} {count > 0 && <span className="soft font-normal">{count}</span>}
      </h2>
      {jobs.length === 0 && <p className="soft mt-1 text-sm">{none}</p>}
      <ul className="mt-1 text-sm">
        {jobs.map((job) => (
          <Line key={job.id} job={job} />
        ))}
      </ul>
      {count > jobs.length && jobs.length > 0 && <p className="soft mt-1 text-xs">and {count - jobs.length} more</p>}
    </section>
  )
}

function Line({ job }: { job: Job }) {
  const client = useQueryClient()
  const network = useNetwork()
  const onSuccess = () => void client.invalidateQueries({ queryKey: ['jobs'] })
  const path = { params: { path: { job_id: job.id } } }
  const cancel = useMutation({ mutationFn: async () => taken(await api.POST('/api/jobs/{job_id}/cancelled', path)), onSuccess })
  const again = useMutation({ mutationFn: async () => taken(await api.POST('/api/jobs/{job_id}/again', path)), onSuccess })
  const forget = useMutation({ mutationFn: async () => taken(await api.DELETE('/api/jobs/{job_id}', path)), onSuccess })
  const error = cancel.error ?? again.error ?? forget.error
  const open = job.state === 'waiting' || job.state === 'running'
  const may = network.data?.role !== 'look'
  const name = `${job.kind}, ${job.about}`
  return (
    <li className="border-base-300 grid grid-cols-[minmax(0,1fr)_auto] items-center gap-x-3 border-b py-1.5">
      <div className="min-w-0">
        <div className="flex flex-wrap items-baseline gap-x-2">
          <span className="font-semibold">{job.kind}</span>
          <span className="min-w-0 break-words">{job.about}</span>
          {job.state === 'cancelled' && <span className="soft">cancelled</span>}
        </div>
        <div className="soft text-xs">{told(job)}</div>
        {job.why && job.state !== 'done' && (
          <div className={`mt-0.5 ${job.state === 'failed' ? 'border-error border-l-4 pl-2' : 'soft text-xs'}`}>
            {job.state === 'failed' ? '' : 'Last time: '}
            {job.why}
            {job.mend && `; ${job.mend}`}
          </div>
        )}
        {job.state === 'running' && (
          <progress className="progress progress-primary mt-1 block h-1.5 w-full max-w-md" value={job.fraction} max={1} aria-label={`${name}: how far`} />
        )}
        {error && <ProblemLine error={error} />}
      </div>
      <div className="flex gap-1">
        {job.package && job.state === 'done' && (
          <a className="btn btn-xs btn-outline border-base-300" href={`/api/packages/${job.package}`} download aria-label={`Fetch ${name}`}>
            Fetch
          </a>
        )}
        {may && open && (
          <button className="btn btn-xs btn-outline border-base-300" disabled={job.cancelled || cancel.isPending} aria-label={`Cancel ${name}`} onClick={() => { cancel.mutate() }}>
            {job.cancelled ? 'Cancelling …' : 'Cancel'}
          </button>
        )}
        {may && (job.state === 'failed' || job.state === 'cancelled') && (
          <button className="btn btn-xs btn-outline border-base-300" disabled={again.isPending} aria-label={`Try again ${name}`} onClick={() => { again.mutate() }}>
            Try again
          </button>
        )}
        {may && job.state === 'failed' && (
          <button className="btn btn-xs btn-ghost" disabled={forget.isPending} aria-label={`Remove ${name}`} onClick={() => { forget.mutate() }}>
            Remove
          </button>
        )}
      </div>
    </li>
  )
}

/** When it was asked for and by whom, how far it is, who has it. */
function told(job: Job): string {
  const parts = [`asked for ${momentAt(job.made_at, ZONE)}${job.by ? ` by ${job.by}` : ''}`]
  if (job.state === 'running') parts.push(`${job.step || 'begun'}, ${percent(job.fraction)}`, `on ${job.worker}`)
  if (job.state === 'waiting' && job.next_at) parts.push(`tried again ${momentAt(job.next_at, ZONE)}`)
  if (job.ended_at && job.began_at && job.state === 'done') parts.push(`took ${lasted(job.began_at, job.ended_at)}`)
  if (job.attempt > 1) parts.push(`begun ${job.attempt} times`)
  return parts.join(' · ')
}

function lasted(from: string, to: string): string {
  const seconds = (Date.parse(to) - Date.parse(from)) / 1000
  if (seconds < 10) return `${seconds.toFixed(1)} s`
  return seconds < 120 ? `${seconds.toFixed(0)} s` : `${(seconds / 60).toFixed(0)} min`
}
