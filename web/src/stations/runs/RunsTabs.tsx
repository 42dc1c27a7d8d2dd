import { Link } from 'react-router'

const VIEWS = [
  { path: '/runs', name: 'Runs' },
  { path: '/runs/spot', name: 'Spot checks' },
  { path: '/runs/simulated', name: 'Simulated' },
  { path: '/runs/heat', name: 'Heat' },
] as const

/** The runs as ribbons, spot checks, simulated runs, or the heat of all as one table: the title is the view that is shown, the others links. */
export function RunsTabs({ shown }: { shown: (typeof VIEWS)[number]['path'] }) {
  return (
    <div className="flex shrink-0 items-baseline gap-4">
      {VIEWS.map((v) =>
        v.path === shown ? (
          <h1 key={v.path} className="text-2xl font-bold">
            {v.name}
          </h1>
        ) : (
          <Link key={v.path} to={v.path} className="soft hover:text-base-content text-lg underline decoration-dotted underline-offset-4">
            {v.name}
          </Link>
        ),
      )}
    </div>
  )
}
