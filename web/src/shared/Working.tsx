import type { Shape } from '../api/client'
import { unbroken } from '../ui/text'

/** How a figure is worked out: the rule, the rule with its numbers, where it comes from, and its budget. */
export function Working({ figure }: { figure: Shape['FigureShape'] }) {
  const combined = Math.hypot(...figure.budget.map((p) => p.standard))
  return (
    <div className="grid grid-cols-1 gap-x-10 gap-y-2 md:grid-cols-[1fr_auto]">
      <div className="space-y-1">
        <p className="font-semibold">{figure.formula}</p>
        <p>{unbroken(figure.numbers)}</p>
        <p className="soft text-xs">{figure.source}</p>
      </div>
      {figure.budget.length > 0 && (
        <table className="self-start text-xs">
          <caption className="soft text-left">standard uncertainty, {figure.unit}</caption>
          <tbody>
            {figure.budget.map((p, i) => (
              <tr key={i}>
                <th scope="row" className="pr-4 text-left font-normal">
                  {p.source}
                </th>
                <td className="reading text-right">{p.standard.toPrecision(2)}</td>
              </tr>
            ))}
            <tr className="border-base-content border-t font-semibold">
              <th scope="row" className="pr-4 text-left">
                in quadrature
              </th>
              <td className="reading text-right">{combined.toPrecision(2)}</td>
            </tr>
          </tbody>
        </table>
      )}
    </div>
  )
}
