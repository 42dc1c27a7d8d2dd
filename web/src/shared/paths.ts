/** The address of a new finding, of runs, a plan or packs. */
export function newFindingPath(of: { plan?: string; runs?: readonly string[]; packs?: readonly string[]; question?: string }): string {
  const query = new URLSearchParams()
  if (of.plan) query.set('plan', of.plan)
  if (of.runs?.length) query.set('runs', of.runs.join(','))
  for (const pack of of.packs ?? []) query.append('pack', pack)
  if (of.question) query.set('question', of.question)
  return `/findings/new?${query.toString().replaceAll('%2C', ',')}`
}

/** The address of a comparison. */
export function versusPath(runs: readonly string[], window?: { start: number; end: number } | null): string {
  const query = new URLSearchParams({ runs: runs.join(',') })
  if (window) {
    query.set('from', String(window.start))
    query.set('to', String(window.end))
  }
  return `/versus?${query.toString().replaceAll('%2C', ',')}`
}
