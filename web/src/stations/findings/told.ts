import type { Sentence } from './useFinding'

export interface Piece {
  text: string
  strong: boolean
  /** The place of the figure in its sentence, where the piece is one. */
  figure: number | null
  /** Signs that stay with a figure on its line. */
  before: string
  after: string
}

/** Words in pieces: figures stand in square brackets, strong words between asterisks. */
export function pieces(words: string, figures: Sentence['figures']): Piece[] {
  const found: Piece[] = []
  let strong = false
  let seen = 0
  for (const part of words.split(/(\[[^[\]]*\]|\*)/)) {
    if (part === '*') strong = !strong
    else if (part.startsWith('[')) {
      const text = part.slice(1, -1)
      const own = figures.findIndex((f, i) => i >= seen && f.text === text)
      const at = own >= 0 ? own : figures.findIndex((f) => f.text === text)
      if (own >= 0) seen = own + 1
      found.push({ text, strong, figure: at >= 0 ? at : null, before: '', after: '' })
    } else if (part) found.push({ text: part, strong, figure: null, before: '', after: '' })
  }
  found.forEach((piece, i) => {
    if (piece.figure === null) return
    const [left, right] = [found[i - 1], found[i + 1]]
    if (left?.figure === null && left.text.endsWith('(')) [left.text, piece.before] = [left.text.slice(0, -1), '(']
    const signs = right?.figure === null ? (/^[),.;:]+/.exec(right.text)?.[0] ?? '') : ''
    if (right && signs) [right.text, piece.after] = [right.text.slice(signs.length), signs]
  })
  return found
}
