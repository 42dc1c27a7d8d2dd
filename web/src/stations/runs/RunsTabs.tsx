import { Tabs } from '../../ui/Tabs'

const VIEWS = [
  { path: '/runs', name: 'Runs' },
  { path: '/runs/spot', name: 'Spot checks' },
  { path: '/runs/simulated', name: 'Simulated' },
  { path: '/runs/heat', name: 'Heat' },
] as const

/** The runs as ribbons, spot checks, simulated runs, or the heat of all as one table. */
export const RunsTabs = ({ shown }: { shown: (typeof VIEWS)[number]['path'] }) => <Tabs views={VIEWS} shown={shown} />
