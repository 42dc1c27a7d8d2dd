import type { Problem, Shape } from './client'
import { lines } from './lines'

type Line = Shape['Progress'] & { problem?: Problem }

/** Reads and stores a run; `told` hears each step with its share. The id of the run comes back. */
export async function readRun(run: Shape['NewRunShape'], told: (line: Line) => void): Promise<string> {
  const last = await lines<Line>('/api/runs', run, told, (line) => Boolean(line.run))
  return last.run ?? ''
}
