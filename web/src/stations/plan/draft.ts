import type { Shape } from '../../api/client'
import type { Card } from '../../api/useMethod'
import type { NewPlan, Plan } from '../../api/usePlans'
import { forField } from '../../ui/times'

export type Choice = Required<Shape['PlanChoice']>
export type Wishes = Required<Shape['PlanWishes']>

/** A plan as it is being made: everything filled in. */
export interface Draft {
  question: string
  card: Shape['Card']
  choice: Choice
  wishes: Wishes
  revision: number
}

const QUARTER_MS = 900_000

/** The next quarter of an hour by the clock of a zone. */
const soon = (zone: string) => forField(new Date(Math.ceil(Date.now() / QUARTER_MS) * QUARTER_MS), zone)

export const DAYS = ['mon', 'tue', 'wed', 'thu', 'fri', 'sat', 'sun']

/** A new plan: nothing picked, the first card. */
export function newDraft(card: Card): Draft {
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone || 'UTC'
  return {
    question: '',
    card: card.card,
    choice: {
      phones: [], chargers: [], wired: false, adapter: null, cable: null, levels: {}, left_out: [], forced: [],
      order: 'randomised', seed: Math.floor(Math.random() * 1000), repeats: card.card.repeats ?? 1, close: (card.card.repeats ?? 1) === 1,
    },
    wishes: {
      start: soon(zone), zone, attended: [{ begins: '08:00', ends: '22:00', days: DAYS }], meters: 1, plugs: 1, end: null, at_once: null,
      stop_when_answered: false,
    },
    revision: 0,
  }
}

/** A new plan that begins with what another screen sent here: a question, and picked kit. */
export function draftFrom(sent: unknown, card: Card): Draft {
  const made = newDraft(card)
  const { question, choice } = (sent ?? {}) as Partial<Shape['PlanDraft']>
  if (question === undefined || choice === undefined) return made
  const { phones, chargers, wired, adapter, cable, left_out, forced } = choice as unknown as Choice
  return { ...made, question, choice: { ...made.choice, phones, chargers, wired, adapter, cable, left_out, forced } }
}

/** A plan that is to be changed. */
export function draftOf(plan: Plan): Draft {
  const { question, card, revision } = plan
  return { question, card, choice: plan.choice as Choice, wishes: plan.wishes as Wishes, revision }
}

/** The draft as the application wants it. */
export const asNewPlan = (d: Draft): NewPlan => ({
  question: d.question, card: { ...d.card }, choice: d.choice, wishes: d.wishes, revision: d.revision,
})

/** With another card: its repeats and its adapter rule come along. */
export function withCard(draft: Draft, card: Shape['Card']): Draft {
  const repeats = card.repeats ?? 1
  const adapter = card.adapter_rule === 'each its best' ? null : draft.choice.adapter
  return { ...draft, card, choice: { ...draft.choice, repeats, close: repeats === 1, adapter } }
}

/** In or out: of a list, the order kept. */
export const toggled = <T>(list: T[], item: T) => (list.includes(item) ? list.filter((x) => x !== item) : [...list, item])

/** A cell ticked or not: what is pointless must be forced, what is not must be left out. */
export function withCell(choice: Choice, cell: Shape['CellShape']): Choice {
  if (cell.pointless) return { ...choice, forced: toggled(choice.forced, cell.key), left_out: choice.left_out.filter((k) => k !== cell.key) }
  return { ...choice, left_out: toggled(choice.left_out, cell.key) }
}
