import type { Shape } from '../../api/client'
import { Working } from '../../shared/Working'
import { HowSign } from '../../ui/HowSign'
import { Strong, unbroken } from '../../ui/text'

interface Props {
  sentences: Shape['PackSentenceShape'][]
  figures: Shape['FigureShape'][]
  open: string | null
  onOpen: (key: string | null) => void
}

const shown = (f: Shape['FigureShape']) =>
  `${f.value.toFixed(f.decimals)}${f.expanded === null ? '' : ` ± ${f.expanded.toFixed(f.decimals)}`} ${f.unit}`.trim()

/** Sentences, each with the sign that opens how its figure is worked out; figures that no sentence names stand below. */
export function Said({ sentences, figures, open, onOpen }: Props) {
  const told = new Set(sentences.map((s) => s.key))
  const rest = figures.filter((f) => !told.has(f.key))
  const sign = (f: Shape['FigureShape']) => (
    <HowSign
      open={open === f.key}
      of={f.label}
      onClick={() => {
        onOpen(open === f.key ? null : f.key)
      }}
    />
  )
  const working = (f: Shape['FigureShape']) =>
    open === f.key && (
      <div className="bg-base-200 my-1 px-3 py-2 text-sm">
        <Working figure={f} />
        {f.low !== null && f.high !== null && (
          <p className="soft text-xs">
            between {f.low.toFixed(2)} and {f.high.toFixed(2)} {f.unit}
          </p>
        )}
      </div>
    )
  return (
    <>
      <ul className="mt-2 space-y-1">
        {sentences.map((s) => {
          const figure = figures.find((f) => f.key === s.key)
          return (
            <li key={s.key + s.text} className="text-sm">
              <span className="flex items-baseline gap-2">
                <span className="min-w-0 flex-1">
                  <Strong text={s.text} />
                </span>
                {figure && sign(figure)}
              </span>
              {figure && working(figure)}
            </li>
          )
        })}
      </ul>
      {rest.length > 0 && (
        <details className="mt-2 text-sm">
          <summary className="soft cursor-pointer">{sentences.length > 0 ? 'More figures' : 'Figures'}</summary>
          <dl>
          {rest.map((f) => (
            <div key={f.key} className="border-base-300 border-t py-1">
              <div className="flex items-baseline gap-2">
                <dt className="soft flex-1">{f.label}</dt>
                <dd className="reading">{unbroken(shown(f))}</dd>
                {sign(f)}
              </div>
              {working(f)}
            </div>
          ))}
          </dl>
        </details>
      )}
    </>
  )
}
