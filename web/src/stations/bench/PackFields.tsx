import { useQuery } from '@tanstack/react-query'
import type { Shape } from '../../api/client'
import { queries } from '../../api/queries'
import { Choice } from './Choice'

export type LaneKind = Shape['NewLaneShape']['kind']

/** The kind that an address names; else a phone being charged. */
export const asLaneKind = (text: string | null): LaneKind => (text === 'load' || text === 'recharge' ? text : 'charge')

const KINDS: { kind: LaneKind; said: string }[] = [
  { kind: 'charge', said: 'a phone being charged' },
  { kind: 'load', said: 'a pack under load' },
  { kind: 'recharge', said: 'a pack being filled' },
]

/** What a lane tests: a phone on whatever charges it, or a pack by itself. */
export function WhatIsTested({ kind, onKind }: { kind: LaneKind; onKind: (kind: LaneKind) => void }) {
  return (
    <div role="radiogroup" aria-label="what is tested" className="mt-1 mb-2 flex flex-wrap gap-x-5 gap-y-1 text-sm">
      {KINDS.map((k) => (
        <label key={k.kind} className="flex cursor-pointer items-center gap-2">
          <input
            type="radio"
            name="what is tested"
            className="radio radio-sm"
            checked={kind === k.kind}
            onChange={() => {
              onKind(k.kind)
            }}
          />
          {k.said}
        </label>
      ))}
    </div>
  )
}

interface Props {
  kind: LaneKind
  packs: string[]
  pack: string
  onPack: (label: string) => void
  method: string
  onMethod: (name: string) => void
}

/** A pack and the method of its test, with the steps of that. */
export function PackFields({ kind, packs, pack, onPack, method, onMethod }: Props) {
  const methods = (useQuery(queries.packMethods()).data ?? []).filter((m) => m.kind === kind)
  const shown = methods.find((m) => m.name === method) ?? methods[0]
  return (
    <>
      <div className="grid grid-cols-4 gap-x-4 gap-y-2 max-lg:grid-cols-2">
        <Choice text="pack" value={pack} options={packs} onChoose={onPack} />
        <Choice text="method" value={shown?.name} options={methods.map((m) => m.name)} none="" onChoose={onMethod} />
      </div>
      {packs.length === 0 && <p className="mt-2 text-sm">No pack stands on the shelf yet: put one there first.</p>}
      {shown && (
        <div className="mt-2 max-w-prose text-sm">
          <p className="soft">Good for {shown.good_for}.</p>
          <ol className="mt-1 list-decimal pl-5">
            {shown.steps.map((step) => (
              <li key={step}>{step}</li>
            ))}
          </ol>
        </div>
      )}
    </>
  )
}
