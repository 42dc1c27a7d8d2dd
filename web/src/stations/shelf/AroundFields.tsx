import type { ChainChoice } from '../../api/useChain'
import { piecesFor } from '../../shared/pieces'
import type { Kit } from '../../api/useKit'
import { Figure } from '../../ui/Figure'
import { inCelsius, inDegrees } from '../../ui/format'
import { useSettings } from '../../reader/settings'
import { aroundFrom, AIRFLOWS, STATES } from './choice'
import type { Choose } from './choice'

interface Props {
  choice: ChainChoice
  kit: Kit[]
  choose: Choose
}

/** What surrounds the forecasts: start, room, airflow, phone, and what else draws from charger and adapter. */
export function AroundFields({ choice, kit, choose }: Props) {
  const { degrees } = useSettings()
  const around = choice.around ?? aroundFrom(new URLSearchParams())
  const phones = kit.find((k) => k.id === choice.charger)?.places.length ?? 1
  const shared = piecesFor(kit, 'adapter').find((k) => k.id === choice.adapter)?.fields.ports
  return (
    <div className="mt-2 flex flex-wrap items-end gap-x-2 gap-y-1 text-sm">
      <Figure
        text="from"
        unit="%"
        value={around.start_percent ?? 10}
        low={0}
        high={99}
        onTyped={(v) => {
          choose({ start: String(v) })
        }}
      />
      <Figure
        key={degrees}
        text="room"
        unit={`°${degrees}`}
        value={Number(inDegrees(around.ambient_c ?? 25, degrees).toFixed(1))}
        low={inDegrees(-10, degrees)}
        high={inDegrees(50, degrees)}
        onTyped={(v) => {
          choose({ room: inCelsius(v, degrees).toFixed(2) })
        }}
      />
      <Chosen text="air" value={around.airflow ?? 'still air'} known={AIRFLOWS} onChosen={(air) => { choose({ air }) }} />
      <Chosen text="phone is" value={around.phone_state ?? 'idle'} known={STATES} onChosen={(state) => { choose({ state }) }} />
      <Figure
        text="off centre"
        unit="mm"
        value={around.offset_mm ?? 0}
        low={0}
        high={30}
        onTyped={(v) => {
          choose({ offset: String(v) })
        }}
      />
      {phones > 1 && (
        <Figure
          text="phones on the charger"
          whole
          value={choice.phones_on_charger ?? 1}
          low={1}
          high={10}
          onTyped={(v) => {
            choose({ phones: String(Math.round(v)) })
          }}
        />
      )}
      {shared && Number(shared) > 1 && (
        <Figure
          text="chargers on the adapter"
          whole
          value={choice.chargers_on_adapter ?? 1}
          low={1}
          high={10}
          onTyped={(v) => {
            choose({ chargers: String(Math.round(v)) })
          }}
        />
      )}
    </div>
  )
}

interface ChosenProps {
  text: string
  value: string
  known: readonly string[]
  onChosen: (value: string) => void
}

function Chosen({ text, value, known, onChosen }: ChosenProps) {
  return (
    <label className="flex items-center gap-1.5">
      <span className="soft">{text}</span>
      <select
        className="select select-xs w-auto"
        aria-label={text}
        value={value}
        onChange={(e) => {
          onChosen(e.target.value)
        }}
      >
        {known.map((k) => (
          <option key={k}>{k}</option>
        ))}
      </select>
    </label>
  )
}
