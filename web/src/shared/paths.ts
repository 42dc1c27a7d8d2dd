/** The address of a comparison. */
export function versusPath(runs: readonly string[], window?: { start: number; end: number } | null): string {
  const query = new URLSearchParams({ runs: runs.join(',') })
  if (window) {
    query.set('from', String(window.start))
    query.set('to', String(window.end))
  }
  return `/versus?${query.toString().replaceAll('%2C', ',')}`
}
