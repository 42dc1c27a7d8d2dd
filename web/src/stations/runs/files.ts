import type { Shape } from '../../api/client'

export type Understanding = Shape['UnderstandingShape']
export type Role = Shape['FileUse']['roles'][number]
export type Choice = Partial<Shape['ChoiceShape']>

/** A file on its way into a run, and what it is taken for. */
export interface SentFile {
  key: number
  name: string
  /** Share that has gone, 0–1. */
  sent: number
  upload?: Shape['UploadShape']
  understanding?: Understanding
  roles: Role[]
  choice: Choice
  /** What its relative times count from, where the person said so. */
  whose?: 'log' | 'placing'
  /** Whether it is being understood anew. */
  waiting?: boolean
  error?: unknown
}

/** Files dropped on one page that another page reads. */
export const waitingFiles: File[] = []
