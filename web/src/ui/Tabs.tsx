import { Link } from 'react-router'

export interface View {
  path: string
  name: string
}

/** Views of a station: the title is the one that is shown, the others are links. */
export function Tabs({ views, shown }: { views: readonly View[]; shown: string }) {
  return (
    <div className="flex shrink-0 items-baseline gap-4 max-sm:w-full max-sm:shrink max-sm:flex-wrap">
      {views.map((v) =>
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
