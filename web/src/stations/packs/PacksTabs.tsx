import { Link } from 'react-router'

const VIEWS = [
  { path: '/packs', name: 'Packs' },
  { path: '/packs/charges', name: 'Charges of every phone' },
] as const

/** The packs, or the table of packs and phones: the title is the view that is shown, the other a link. */
export function PacksTabs({ shown }: { shown: (typeof VIEWS)[number]['path'] }) {
  return (
    <div className="flex shrink-0 items-baseline gap-4">
      {VIEWS.map((v) =>
        v.path === shown ? (
          <h1 key={v.path} className="text-xl font-bold">
            {v.name}
          </h1>
        ) : (
          <Link key={v.path} to={v.path} className="soft hover:text-base-content underline decoration-dotted underline-offset-4">
            {v.name}
          </Link>
        ),
      )}
    </div>
  )
}
