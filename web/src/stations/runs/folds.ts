import type { Shape } from '../../api/client'

type Dip = Shape['DipShape']

/** Dips in a row that are alike: the places of them, at least three; a single dip is a fold of one. */
export function foldsOf(dips: readonly Dip[]): number[][] {
  const folds: number[][] = []
  dips.forEach((dip, i) => {
    const last = folds.at(-1)
    const first = last?.[0] === undefined ? undefined : dips[last[0]]
    if (last && first && alike(first, dip)) last.push(i)
    else folds.push([i])
  })
  return folds.flatMap((f) => (f.length >= LEAST ? [f] : f.map((i) => [i])))
}

const LEAST = 3
/** Watts that differ by less than this share, or by half a watt, are alike. */
const SHARE = 0.15

const near = (a: number, b: number) => Math.abs(a - b) <= Math.max(0.5, SHARE * Math.max(a, b))

const alike = (a: Dip, b: Dip) =>
  a.cause === b.cause && !a.overruled && !b.overruled && !a.lasting && !b.lasting && near(a.expected_w, b.expected_w) && near(a.floor_w, b.floor_w)

/** The least and the most of some figures: `40.4 to 40.5`, or one figure where they are written alike. */
export function rangeText(values: readonly (number | null)[], text: (value: number) => string): string {
  const known = values.filter((v) => v !== null)
  if (known.length === 0) return ''
  const [low, high] = [text(Math.min(...known)), text(Math.max(...known))]
  return low === high ? low : `${low} to ${high}`
}
