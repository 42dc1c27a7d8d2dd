import { inReadersDegrees } from '../reader/degrees'
import { storedDegrees } from '../reader/settings'
import { asProblem, byHeader, Refused, type Problem } from './client'

interface Line {
  step: string
  fraction: number
  problem?: Problem
}

/** Asks for long work and hears each line of its progress; the line that `ends` it comes back. */
export async function lines<T extends Line>(
  path: string,
  body: unknown,
  told: (line: T) => void,
  ends: (line: T) => boolean,
  signal?: AbortSignal,
): Promise<T> {
  const answer = await fetch(path, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json', Accept: 'application/x-ndjson', ...byHeader() },
    body: JSON.stringify(body),
    signal,
  }).catch(() => null)
  if (!answer?.body) throw new Refused(asProblem(null))
  if (!answer.ok) throw new Refused(asProblem(await answer.json()))
  const reader = answer.body.pipeThrough(new TextDecoderStream()).getReader()
  let rest = ''
  for (;;) {
    const { done, value } = await reader.read()
    if (done) throw new Refused(asProblem(null))
    const texts = (rest + value).split('\n')
    rest = texts.pop() ?? ''
    for (const text of texts) {
      const line = inReadersDegrees(JSON.parse(text) as T, storedDegrees())
      told(line)
      if (line.problem) throw new Refused(line.problem)
      if (ends(line)) return line
    }
  }
}
