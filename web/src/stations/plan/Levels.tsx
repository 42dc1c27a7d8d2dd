import { useState } from 'react'
import type { Shape } from '../../api/client'
import { NO_CASE } from '../../api/rules'
import type { Kit } from '../../api/useKit'
import { toggled, type Draft } from './draft'
import { Chip, Row } from './rows'

interface Props {
  draft: Draft
  onDraft: (draft: Draft) => void
  kit: Kit[]
  factors: Shape['FactorShape'][]
}

/** The conditions: the common factors by one click, every other by its name. */
export function Levels({ draft, onDraft, kit, factors }: Props) {
  const levels = draft.choice.levels
  const free = factors.filter((f) => !f.chosen_elsewhere)
  const set = (name: string, wanted: string[] | null) => {
    const others = Object.fromEntries(Object.entries(levels).filter(([known]) => known !== name))
    onDraft({ ...draft, choice: { ...draft.choice, levels: wanted === null ? others : { ...others, [name]: wanted } } })
  }
  const choices = (f: Shape['FactorShape']) =>
    f.name === 'case' ? [NO_CASE, ...kit.filter((k) => k.kind === 'case').map((k) => k.label)] : f.choices
  const start = (f: Shape['FactorShape']) => {
    const known = choices(f)
    if (f.name in levels) set(f.name, null)
    else set(f.name, known.length ? known.slice(0, 1) : [f.example.split(',')[0]?.trim() ?? ''])
  }
  return (
    <>
      <Row text="varied">
        {free
          .filter((f) => f.common || f.name in levels)
          .map((f) => (
            <Chip key={f.name} text={f.said} on={f.name in levels} onClick={() => { start(f) }} />
          ))}
        <select
          className="select select-sm w-44"
          aria-label="another factor"
          value=""
          onChange={(e) => {
            const found = free.find((f) => f.name === e.target.value)
            if (found) start(found)
          }}
        >
          <option value="">another factor …</option>
          {free
            .filter((f) => !f.common && !(f.name in levels))
            .map((f) => (
              <option key={f.name} value={f.name}>
                {f.said}
              </option>
            ))}
        </select>
      </Row>
      {free
        .filter((f) => f.name in levels)
        .map((f) => (
          <Row key={f.name} text={f.said}>
            {choices(f).length ? (
              choices(f).map((c) => (
                <Chip
                  key={c}
                  text={c}
                  on={levels[f.name]?.includes(c) ?? false}
                  onClick={() => {
                    const next = toggled(levels[f.name] ?? [], c)
                    set(f.name, next.length ? next : null)
                  }}
                />
              ))
            ) : (
              <Named factor={f} levels={levels[f.name] ?? []} onLevels={(wanted) => { set(f.name, wanted) }} />
            )}
          </Row>
        ))}
    </>
  )
}

interface NamedProps {
  factor: Shape['FactorShape']
  levels: string[]
  onLevels: (levels: string[]) => void
}

/** Levels typed, a comma between them. */
function Named({ factor, levels, onLevels }: NamedProps) {
  const [typed, setTyped] = useState(levels.join(', '))
  return (
    <input
      className="input input-sm w-80"
      aria-label={`levels of ${factor.said}`}
      placeholder={factor.example}
      value={typed}
      onChange={(e) => {
        setTyped(e.target.value)
        onLevels(e.target.value.split(',').map((x) => x.trim()).filter(Boolean))
      }}
    />
  )
}
