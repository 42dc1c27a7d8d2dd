import type { Shape } from '../../api/client'
import { duration } from '../../ui/format'
import { HowSign } from '../../ui/HowSign'
import { Working } from '../../shared/Working'
import { figureKey } from '../../shared/words'
import { Wide } from '../../ui/Wide'

interface Props {
  run: Shape['RunShape']
  chosen: string | null
  onChoose: (key: string) => void
  /** The figure whose working is shown. */
  open: string | null
  onOpen: (key: string | null) => void
}

/** Every figure with its uncertainty; its working a click away. */
export function Figures({ run, chosen, onChoose, open, onOpen }: Props) {
  return (
    <section aria-label="figures" className="mt-8">
      <div className="flex items-baseline gap-3">
        <h2 className="text-lg font-bold">Figures</h2>
        <p className="soft text-xs">± is the expanded uncertainty, k = 2</p>
      </div>
      {run.percent_at.length > 0 && (
        <p className="mt-1 text-sm">
          <span className="soft">battery level after</span>{' '}
          {run.percent_at.map((p) => (
            <span key={p.minute} className="mr-4 inline-block">
              {duration(p.minute)} <b className="reading">{p.percent.toFixed(0)} %</b>
            </span>
          ))}
        </p>
      )}
      <Wide least={30} className="mt-1 w-full max-w-5xl text-sm">
        <thead className="soft border-base-300 border-b text-left text-xs">
          <tr>
            <th className="py-1 font-normal">figure</th>
            <th className="py-1 text-right font-normal">value</th>
            <th className="py-1 pl-6 font-normal">measured at</th>
            <th className="py-1 font-normal">
              <span className="sr-only">working</span>
            </th>
          </tr>
        </thead>
        {run.figures.map((f) => (
          <tbody key={f.key} id={`figure-${f.key}`} className={`border-base-300 border-b ${chosen === figureKey(f) ? 'bg-accent' : ''}`}>
            <tr>
              <th scope="row" className="py-1.5 text-left font-normal">
                {f.start === null ? (
                  f.label
                ) : (
                  <button
                    className="cursor-pointer underline decoration-dotted underline-offset-3"
                    title="show its stretch"
                    aria-pressed={chosen === figureKey(f)}
                    onClick={() => {
                      onChoose(figureKey(f))
                    }}
                  >
                    {f.label}
                  </button>
                )}
              </th>
              <td className="reading text-right whitespace-nowrap">
                {f.value.toFixed(f.decimals)}
                {f.expanded !== null && ` ± ${f.expanded.toFixed(f.decimals)}`} {f.unit}
                {f.low !== null && f.high !== null && (
                  <span className="soft block font-sans text-xs">
                    between {f.low.toFixed(f.decimals)} and {f.high.toFixed(f.decimals)} {f.unit}
                  </span>
                )}
              </td>
              <td className="soft pl-6">{f.point}</td>
              <td className="text-right">
                <HowSign
                  open={open === f.key}
                  onClick={() => {
                    onOpen(open === f.key ? null : f.key)
                  }}
                />
              </td>
            </tr>
            {open === f.key && (
              <tr>
                <td colSpan={4} className="bg-base-200 px-4 py-3">
                  <Working figure={f} />
                </td>
              </tr>
            )}
          </tbody>
        ))}
      </Wide>
    </section>
  )
}
