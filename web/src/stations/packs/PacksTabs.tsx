import { Tabs } from '../../ui/Tabs'

const VIEWS = [
  { path: '/packs', name: 'Packs' },
  { path: '/packs/charges', name: 'Charges of every phone' },
  { path: '/packs/plan', name: 'Plan of their tests' },
] as const

/** The packs, or the table of packs and phones. */
export const PacksTabs = ({ shown }: { shown: (typeof VIEWS)[number]['path'] }) => <Tabs views={VIEWS} shown={shown} />
