import type { Shape } from '../../api/client'
import type { Draft } from './draft'
import { Figure } from '../../ui/Figure'

interface Props {
  draft: Draft
  onDraft: (draft: Draft) => void
  orders: Shape['OrderShape'][]
}

/** How often, and in which order. */
export function OrderFields({ draft, onDraft, orders }: Props) {
  const { choice } = draft
  const set = (change: Partial<Draft['choice']>) => {
    onDraft({ ...draft, choice: { ...choice, ...change } })
  }
  return (
    <fieldset className="mt-4 text-sm">
      <legend className="text-base font-bold">Order</legend>
      <div className="mt-1 flex flex-wrap items-center gap-4">
        <Figure whole text="rounds" value={choice.repeats} low={1} high={20} onTyped={(repeats) => { set({ repeats }) }} />
        {orders.map((o) => (
          <label key={o.rule} className="flex items-center gap-1.5" title={o.why}>
            <input
              type="radio"
              name="order"
              className="radio radio-xs"
              checked={choice.order === o.rule}
              onChange={() => {
                set({ order: o.rule as Draft['choice']['order'] })
              }}
            />
            {o.rule}
          </label>
        ))}
        {choice.order !== 'as listed' && (
          <Figure whole text="seed" value={choice.seed} low={0} high={1_000_000} onTyped={(seed) => { set({ seed }) }} />
        )}
        <label className="flex items-center gap-1.5" title="to see whether room, phone or meter drifted">
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            checked={choice.close}
            onChange={(e) => {
              set({ close: e.target.checked })
            }}
          />
          first chain again at the end
        </label>
      </div>
      <p className="soft mt-1">{orders.find((o) => o.rule === choice.order)?.why}</p>
    </fieldset>
  )
}
