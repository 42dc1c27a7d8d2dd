import type { Sentence } from './useFinding'

export interface Piece {
  text: string
  strong: boolean
  /** The place of the figure in its sentence, where the piece is one. */
  figure: number | null
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
      found.push({ text, strong, figure: at >= 0 ? at : null })
    } else if (part) found.push({ text: part, strong, figure: null })
  }
  return found
}
