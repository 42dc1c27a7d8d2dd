import { useState } from 'react'
import type { Shape } from '../../api/client'
import { PHASE_WORDS, phaseKey } from '../../charts/PhaseStrip'
import { degreesText, duration } from '../../ui/format'
import { ProblemLine } from '../../ui/Problem'
import { useSettings, type Degrees } from '../../reader/settings'
import { causeSaid, dipKey } from './causes'
import { DecideDip, MovePhase } from './Decide'
import { foldsOf, rangeText } from './folds'
import { useDecide } from './useDecide'
import { unbroken } from '../../ui/text'
import { Wide } from '../../ui/Wide'

interface Props {
  run: Shape['RunShape']
  judged: Shape['JudgedShape']
  chosen: string | null
  onChoose: (key: string) => void
}

const row = (chosen: boolean) => `border-base-300 border-b align-top ${chosen ? 'bg-accent' : ''}`

/** Dips with their causes and what these rest on, and the phases; each can be decided otherwise. */
export function Judgement({ run, judged, chosen, onChoose }: Props) {
  const { degrees } = useSettings()
  const [open, setOpen] = useState<string | null>(null)
  const [unfolded, setUnfolded] = useState<ReadonlySet<number>>(new Set())
  const folds = foldsOf(judged.dips)
  const { decide, change } = useDecide(run)
  const done = () => {
    setOpen(null)
  }
  const toggle = (key: string) => {
    setOpen(open === key ? null : key)
  }
  const shown = (key: string, text: string) => (
    <button
      className="cursor-pointer text-left underline decoration-dotted underline-offset-3"
      aria-pressed={chosen === key}
      title="show its stretch"
      onClick={() => {
        onChoose(key)
      }}
    >
      {text}
    </button>
  )
  const dipRow = (i: number) => {
    const d = judged.dips[i]
    if (!d) return null
    return (
      <tbody key={i} className={row(chosen === dipKey(i))}>
        <tr>
          <td className="py-1.5 whitespace-nowrap">{shown(dipKey(i), duration(d.start))}</td>
          <td className="reading py-1.5 pl-4 text-right whitespace-nowrap">{(d.end - d.start).toFixed(1)} min</td>
          <td className="reading py-1.5 pl-6 text-right whitespace-nowrap">
            {d.expected_w.toFixed(1)} to {d.floor_w.toFixed(1)}
          </td>
          <td className="reading py-1.5 pl-6 text-right">{d.onset_percent === null ? '' : d.onset_percent.toFixed(0)}</td>
          <td className="reading py-1.5 pl-6 text-right">{d.onset_c === null ? '' : degreesText(d.onset_c, degrees)}</td>
          <td className="py-1.5 pl-6">
            <div className={chosen === dipKey(i) || open === dipKey(i) ? '' : 'line-clamp-1'} title={d.why}>
              <b>{causeSaid(d.cause)}</b>
              {d.overruled ? ` (${unbroken(d.overruled)})` : <span className="soft">: {unbroken(d.why)}</span>}
              {d.settle && <span> {d.settle}</span>}
            </div>
          </td>
          <td className="w-20 py-1.5 pl-3 text-right">
            <button className="cursor-pointer underline" aria-expanded={open === dipKey(i)} onClick={() => { toggle(dipKey(i)) }}>
              change
            </button>
          </td>
        </tr>
        {open === dipKey(i) && (
          <tr>
            <td colSpan={7}>
              <DecideDip run={run} dip={d} decide={decide} onDone={done} />
            </td>
          </tr>
        )}
      </tbody>
    )
  }
  return (
    <div className="mt-8 grid grid-cols-1 gap-x-10 gap-y-6 xl:grid-cols-[minmax(0,1fr)_25rem]">
      <section aria-label="dips" id="figure-dips" className="text-sm">
        <div className="flex items-baseline gap-3">
          <h2 className="text-lg font-bold">Dips</h2>
          <p className="soft text-xs">
            under 85 % of what was expected for a minute, or at no-load for 20 s
          </p>
          <button className="ml-auto cursor-pointer underline" aria-expanded={open === 'new'} onClick={() => { toggle('new') }}>
            add one
          </button>
        </div>
        {open === 'new' && <DecideDip run={run} decide={decide} onDone={done} />}
        {judged.dips.length === 0 && <p className="soft mt-1">No dips found.</p>}
        {judged.dips.length > 0 && (
          <Wide least={26} className="mt-1 w-full">
            <thead className="soft border-base-300 border-b text-left text-xs">
              <tr>
                <th className="py-1 font-normal">after</th>
                <th className="py-1 pl-4 text-right font-normal">for</th>
                <th className="py-1 pl-6 text-right font-normal">W</th>
                <th className="py-1 pl-6 text-right font-normal">%</th>
                <th className="py-1 pl-6 text-right font-normal">°{degrees}</th>
                <th className="py-1 pl-6 font-normal">cause, and what it rests on</th>
                <th>
                  <span className="sr-only">change the cause</span>
                </th>
              </tr>
            </thead>
            {folds.map((fold) => {
              const first = fold[0] ?? 0
              const folded = fold.length > 1 && !unfolded.has(first) && !fold.some((i) => chosen === dipKey(i))
              return folded ? (
                <FoldRow
                  key={first}
                  dips={fold.map((i) => judged.dips[i]).filter((d) => d !== undefined)}
                  degrees={degrees}
                  onOpen={() => {
                    setUnfolded(new Set([...unfolded, first]))
                  }}
                />
              ) : (
                fold.map((i) => dipRow(i))
              )
            })}
          </Wide>
        )}
        {judged.decisions.length > 0 && (
          <div className="mt-3">
            <h3 className="font-semibold">Changed by hand</h3>
            <ul>
              {judged.decisions.map((d) => (
                <li key={d.id} className={d.undone ? 'soft' : ''}>
                  <span className={d.undone ? 'line-through' : ''}>
                    {unbroken(d.said)}
                    {d.why && `: ${d.why}`}
                  </span>{' '}
                  <span className="soft">
                    {d.by || 'unsigned'}, {new Date(d.at).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })}
                  </span>{' '}
                  <button
                    className="cursor-pointer underline"
                    onClick={() => {
                      change.mutate({ id: d.id, undone: !d.undone })
                    }}
                  >
                    {d.undone ? 'let it count again' : 'undo'}
                  </button>
                </li>
              ))}
            </ul>
            {change.isError && <ProblemLine error={change.error} />}
          </div>
        )}
      </section>
      <section aria-label="phases" id="figure-phases" className="text-sm">
        <h2 className="text-lg font-bold">Phases</h2>
        <Wide least={26} className="mt-1 w-full">
          <thead className="soft border-base-300 border-b text-left text-xs">
            <tr>
              <th className="py-1 font-normal">phase</th>
              <th className="py-1 text-right font-normal">from</th>
              <th className="py-1 text-right font-normal">for</th>
              <th className="py-1 text-right font-normal">mean W</th>
              <th>
                <span className="sr-only">move its beginning</span>
              </th>
            </tr>
          </thead>
          {judged.phases.map((p, i) => (
            <tbody key={i} className={row(chosen === phaseKey(i))}>
              <tr>
                <td className="py-1.5">{shown(phaseKey(i), PHASE_WORDS[p.kind])}</td>
                <td className="reading py-1.5 text-right whitespace-nowrap">{duration(p.start)}</td>
                <td className="reading py-1.5 text-right whitespace-nowrap">{duration(p.end - p.start)}</td>
                <td className="reading py-1.5 text-right">{p.mean_w.toFixed(2)}</td>
                <td className="py-1.5 text-right">
                  {i > 0 && (
                    <button className="cursor-pointer underline" aria-expanded={open === phaseKey(i)} onClick={() => { toggle(phaseKey(i)) }}>
                      move
                    </button>
                  )}
                </td>
              </tr>
              {(p.overruled || open === phaseKey(i)) && (
                <tr>
                  <td colSpan={5} className="soft pb-1.5 text-xs">
                    {p.overruled}
                    {open === phaseKey(i) && <MovePhase phase={p} decide={decide} onDone={done} />}
                  </td>
                </tr>
              )}
            </tbody>
          ))}
        </Wide>
      </section>
    </div>
  )
}

interface FoldProps {
  dips: Shape['DipShape'][]
  degrees: Degrees
  onOpen: () => void
}

/** Dips that are alike, as one row. */
function FoldRow({ dips, degrees, onOpen }: FoldProps) {
  const first = dips[0]
  if (!first) return null
  const watts = (value: number) => value.toFixed(1)
  return (
    <tbody className={row(false)}>
      <tr>
        <td className="py-1.5 whitespace-nowrap">
          {duration(first.start)} <span className="soft">to {duration(dips.at(-1)?.end ?? first.end)}</span>
        </td>
        <td className="reading py-1.5 pl-4 text-right whitespace-nowrap">{rangeText(dips.map((d) => d.end - d.start), watts)} min</td>
        <td className="reading py-1.5 pl-6 text-right whitespace-nowrap">
          {watts(Math.max(...dips.map((d) => d.expected_w)))} to {watts(Math.min(...dips.map((d) => d.floor_w)))}
        </td>
        <td className="reading py-1.5 pl-6 text-right whitespace-nowrap">{rangeText(dips.map((d) => d.onset_percent), (p) => p.toFixed(0))}</td>
        <td className="reading py-1.5 pl-6 text-right whitespace-nowrap">{rangeText(dips.map((d) => d.onset_c), (c) => degreesText(c, degrees))}</td>
        <td className="py-1.5 pl-6">
          <b>{causeSaid(first.cause)}</b>, {dips.length} times<span className="soft">: {unbroken(first.why)}</span>
        </td>
        <td className="w-20 py-1.5 pl-3 text-right">
          <button className="cursor-pointer underline" onClick={onOpen}>
            show each
          </button>
        </td>
      </tr>
    </tbody>
  )
}
