import { asProblem, byHeader, Refused, type Problem, type Shape } from './client'

type Line = Shape['Progress'] & { problem?: Problem }

/** Reads and stores a run; `told` hears each step with its share. The id of the run comes back. */
export async function readRun(run: Shape['NewRunShape'], told: (line: Line) => void): Promise<string> {
  const answer = await fetch('/api/runs', {
    method: 'POST',
    headers: { 'Content-Type': 'application/json', Accept: 'application/x-ndjson', ...byHeader() },
    body: JSON.stringify(run),
  }).catch(() => null)
  if (!answer?.body) throw new Refused(asProblem(null))
  if (!answer.ok) throw new Refused(asProblem(await answer.json()))
  const reader = answer.body.pipeThrough(new TextDecoderStream()).getReader()
  let rest = ''
  for (;;) {
    const { done, value } = await reader.read()
    if (done) throw new Refused(asProblem(null))
    const lines = (rest + value).split('\n')
    rest = lines.pop() ?? ''
    for (const text of lines) {
      const line = JSON.parse(text) as Line
      told(line)
      if (line.problem) throw new Refused(line.problem)
      if (line.run) return line.run
    }
  }
}
