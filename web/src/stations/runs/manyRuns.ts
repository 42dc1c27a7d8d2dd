import type { Shape } from '../../api/client'

type InFile = Shape['RunInFileShape']

/** What a person says of one run of the file. */
export interface RunWish {
  kept: boolean
  /** Whether it goes on with the one above: the same phone after a stop. */
  joined: boolean
  label: string
  phone: string
  charger: string
}

/** What is said of a run before anybody says more; a name that is a charger of the shelf is its charger. */
export const asFound = (run: InFile, chargers: string[]): RunWish => ({
  kept: run.read_before === null,
  joined: false,
  label: run.label,
  phone: run.factors.phone ?? '',
  charger: run.factors.charger ?? chargers.find((c) => c.toLowerCase() === run.label.toLowerCase()) ?? '',
})

/** The runs to store: those that are kept, each with the ones that go on with it. */
export function groupsOf(runs: InFile[], wishes: RunWish[]): { ns: number[]; wish: RunWish }[] {
  const groups: { ns: number[]; wish: RunWish }[] = []
  let open: { ns: number[]; wish: RunWish } | null = null
  runs.forEach((run, i) => {
    const wish = wishes[i]
    if (!wish) return
    if (wish.joined && i > 0) {
      open?.ns.push(run.n)
      return
    }
    open = wish.kept ? { ns: [run.n], wish } : null
    if (open) groups.push(open)
  })
  return groups
}
