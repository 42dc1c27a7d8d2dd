import type { Shape } from '../api/client'
import { NO_CASE, NO_CASE_SAID } from '../api/rules'

/** The key under which a figure's stretch is chosen, apart from that of the sentence about it. */
export const figureKey = (figure: Shape['FigureShape']) => `figure ${figure.key}`

type Factors = Shape['Factors']

const listed = (...parts: (string | undefined)[]) => parts.filter(Boolean).join(' · ')
const adapter = (f: Factors) => f.adapter && `${f.adapter} adapter`

/** What the phone was charged by, in one line; what is not stated is left out. */
export const chainOf = (f: Factors) => listed(f.charger, adapter(f), f.cable)

/** What was around the phone, in one line. */
export const aroundOf = (f: Factors) => listed(f.case === NO_CASE ? NO_CASE_SAID : f.case, f.airflow, f.phone_state)

/** Chain and surroundings beside a title that names phone and charger. */
export const chainLine = (f: Factors) => listed(adapter(f), f.cable, aroundOf(f))
