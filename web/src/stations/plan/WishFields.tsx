import { DAYS, toggled, type Draft } from './draft'
import { Figure } from '../../ui/Figure'
import { begun } from '../../ui/text'

interface Props {
  draft: Draft
  onDraft: (draft: Draft) => void
}

/** When it may happen: from when, when somebody is there, with how many meters and plugs, until when. */
export function WishFields({ draft, onDraft }: Props) {
  const { wishes, choice } = draft
  const set = (change: Partial<Draft['wishes']>) => {
    onDraft({ ...draft, wishes: { ...wishes, ...change } })
  }
  const hours = (i: number, change: Partial<Draft['wishes']['attended'][number]>) => {
    set({ attended: wishes.attended.map((h, j) => (i === j ? { ...h, ...change } : h)) })
  }
  return (
    <fieldset className="mt-4 text-sm">
      <legend className="text-base font-bold">When</legend>
      <div className="mt-1 flex flex-wrap items-center gap-x-4 gap-y-1.5">
        <label className="flex items-center gap-1.5">
          <span className="soft">from</span>
          <input
            type="datetime-local"
            className="input input-xs w-44"
            aria-label="from"
            value={wishes.start.slice(0, 16)}
            onChange={(e) => {
              if (e.target.value) set({ start: e.target.value })
            }}
          />
        </label>
        <label className="flex items-center gap-1.5">
          <span className="soft">zone</span>
          <input
            className="input input-xs w-36"
            aria-label="zone"
            value={wishes.zone}
            onChange={(e) => {
              set({ zone: e.target.value })
            }}
          />
        </label>
        <label className="flex items-center gap-1.5">
          <span className="soft">over by</span>
          <input
            type="datetime-local"
            className="input input-xs w-44"
            aria-label="over by"
            value={wishes.end?.slice(0, 16) ?? ''}
            onChange={(e) => {
              set({ end: e.target.value || null })
            }}
          />
        </label>
      </div>
      {wishes.attended.map((h, i) => (
        <div key={`hours ${String(i)}`} className="mt-1.5 flex flex-wrap items-center gap-x-3 gap-y-1" role="group" aria-label={`attended hours ${String(i + 1)}`}>
          <span className="soft">{i ? 'and' : 'somebody is there'}</span>
          <Clock text="attended from" value={h.begins ?? '08:00'} onTyped={(begins) => { hours(i, { begins }) }} />
          <span className="soft">to</span>
          <Clock text="attended to" value={h.ends ?? '22:00'} onTyped={(ends) => { hours(i, { ends }) }} />
          <span className="flex gap-0.5">
            {DAYS.map((d) => (
              <button
                key={d}
                type="button"
                aria-pressed={h.days?.includes(d) ?? true}
                className={`btn btn-xs px-1.5 font-normal ${(h.days?.includes(d) ?? true) ? 'btn-neutral' : 'btn-outline border-base-300'}`}
                onClick={() => {
                  hours(i, { days: toggled(h.days ?? DAYS, d) })
                }}
              >
                {begun(d)}
              </button>
            ))}
          </span>
          {wishes.attended.length > 1 && (
            <button
              type="button"
              className="btn btn-ghost btn-xs font-normal"
              aria-label={`remove attended hours ${String(i + 1)}`}
              onClick={() => {
                set({ attended: wishes.attended.filter((_, j) => j !== i) })
              }}
            >
              remove
            </button>
          )}
          {i === wishes.attended.length - 1 && (
            <button
              type="button"
              className="btn btn-ghost btn-xs font-normal"
              onClick={() => {
                set({ attended: [...wishes.attended, { begins: '18:00', ends: '22:00', days: DAYS }] })
              }}
            >
              more hours
            </button>
          )}
        </div>
      ))}
      <div className="mt-1.5 flex flex-wrap items-center gap-x-4 gap-y-1.5">
        <Figure whole text="meters" value={wishes.meters} low={1} high={50} onTyped={(meters) => { set({ meters }) }} />
        {choice.adapter && (
          <Figure whole text="identical plugs at hand" value={wishes.plugs} low={1} high={50} onTyped={(plugs) => { set({ plugs }) }} />
        )}
        <Figure
          whole
          text="runs one person can watch at once"
          value={wishes.at_once}
          low={1}
          high={50}
          empty="any"
          onTyped={(at_once) => { set({ at_once }) }}
          onEmpty={() => { set({ at_once: null }) }}
        />
      </div>
      <label className="mt-1.5 flex w-fit items-center gap-1.5">
        <input
          type="checkbox"
          className="checkbox checkbox-xs"
          checked={wishes.stop_when_answered}
          onChange={(e) => {
            set({ stop_when_answered: e.target.checked })
          }}
        />
        stop by itself once it is answered
      </label>
    </fieldset>
  )
}

/** A time of day, midnight at the end as 24:00. */
function Clock({ text, value, onTyped }: { text: string; value: string; onTyped: (value: string) => void }) {
  return (
    <input
      className="input input-xs w-14 px-1.5 tabular-nums"
      aria-label={text}
      value={value}
      maxLength={5}
      onChange={(e) => {
        onTyped(e.target.value)
      }}
    />
  )
}
