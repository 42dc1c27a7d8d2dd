import { PACK_MODES, RESTARTS } from '../../api/rules'
import type { Shape } from '../../api/client'

export type Kind = Shape['NewTest']['kind']
export type Values = Partial<Record<string, string>>
type Body = Omit<Shape['NewTest'], 'kind' | 'upload' | 'second_upload' | 'at'>

export interface Field {
  key: string
  name: string
  type: 'text' | 'number' | 'tick' | 'choice' | 'phone' | 'file' | 'lines'
  example?: string
  options?: readonly string[]
  /** Shown only once the form is opened wide. */
  more?: boolean
}

export interface FormOf {
  kind: Kind
  button: string
  title: (label: string) => string
  hint: string
  fields: (pack: { has_coil: boolean; has_cord: boolean }) => Field[]
  needs: string[]
  body: (values: Values) => Partial<Body>
}

const text = (values: Values, key: string) => values[key]?.trim() ?? ''
const ticked = (values: Values, key: string) => values[key] === 'yes'

/** A typed figure; null where the field is empty; what is no figure goes as it is, to be refused with its mend. */
export function figure(values: Values, key: string): number | null {
  const typed = text(values, key).replace(',', '.').replace('%', '').trim()
  return typed === '' ? null : Number(typed)
}

const LEVEL = 'A level is a percentage, or the lamps that are lit: “3 lamps”, “2/5”.'
const ACCURACY: Field = { key: 'accuracy', name: 'accuracy of the display, %', type: 'number', example: 'not known', more: true }

const charge: FormOf = {
  kind: 'charge',
  button: 'Charge a phone from it',
  title: (label) => `A phone charged from ${label}`,
  hint: `${LEVEL} Several phones in turn: type one after the other, each beginning where the last left the pack; 0 where it ran empty.`,
  fields: (pack) => [
    { key: 'phone', name: 'phone', type: 'phone' },
    { key: 'pack_before', name: 'pack before', type: 'text', example: '100' },
    { key: 'pack_after', name: 'pack after', type: 'text', example: '27 or 2 lamps' },
    { key: 'phone_before', name: 'phone before, %', type: 'number', example: '5' },
    { key: 'phone_after', name: 'phone after, %', type: 'number', example: '100' },
    ...(pack.has_coil && pack.has_cord ? [{ key: 'by_cord', name: 'by cord', type: 'tick' } as const] : []),
    { key: 'minutes', name: 'minutes', type: 'number', example: 'if timed', more: true },
  ],
  needs: ['phone', 'pack_before', 'pack_after', 'phone_before', 'phone_after'],
  body: (v) => ({
    charge: {
      phone: text(v, 'phone'),
      pack_before: text(v, 'pack_before'),
      pack_after: text(v, 'pack_after'),
      phone_before: figure(v, 'phone_before') ?? NaN,
      phone_after: figure(v, 'phone_after') ?? NaN,
      by_cord: ticked(v, 'by_cord'),
      minutes: figure(v, 'minutes'),
      run: '',
    },
  }),
}

const load: FormOf = {
  kind: 'load',
  button: 'Load test',
  title: (label) => `Load test of ${label}`,
  hint: 'Choose its log (volts and amps, from full until it goes off by itself), or type what the display says: the energy, a few loads with their volts, where it let go.',
  fields: () => [
    { key: 'file', name: 'log', type: 'file' },
    { key: 'wh', name: 'or Wh on the display', type: 'number', example: '29.2' },
    { key: 'minutes', name: 'minutes under load', type: 'number', example: '188' },
    { key: 'emptied', name: 'it went off by itself, empty', type: 'tick' },
    { key: 'loads', name: 'loads and their volts', type: 'text', example: '0 A 5.12 V, 1 A 5.06 V' },
    { key: 'let_go', name: 'let go at, A', type: 'number', example: '4.4' },
    { key: 'restart', name: 'it came back', type: 'choice', options: RESTARTS },
    { key: 'held', name: 'most that it held, A', type: 'number', example: '4.1', more: true },
    { key: 'mah', name: 'or mAh on the display', type: 'number', example: '5840', more: true },
    { key: 'volts', name: 'at volts', type: 'number', example: '5', more: true },
    { key: 'gauge', name: 'levels of its gauge, minutes first', type: 'text', example: '0 100; 60 75; 1:30 2 lamps', more: true },
    { key: 'second_file', name: 'log of another output at once', type: 'file', more: true },
    { key: 'outlet', name: 'which output', type: 'text', example: 'USB-C', more: true },
    { key: 'modes', name: 'modes that it showed', type: 'text', example: PACK_MODES.slice(1, 3).join(', ') + ', PPS', more: true },
    { key: 'low_current', name: 'mode for small loads', type: 'choice', options: ['on', 'off'], more: true },
    { key: 'certified', name: 'the load is certified', type: 'choice', options: ['yes', 'no'], more: true },
    ACCURACY,
  ],
  needs: [],
  body: (v) => ({
    seen: {
      wh: figure(v, 'wh'),
      mah: figure(v, 'mah'),
      volts: figure(v, 'volts'),
      minutes: figure(v, 'minutes'),
      emptied: ticked(v, 'emptied'),
      loads: text(v, 'loads'),
      held_a: figure(v, 'held'),
      let_go_a: figure(v, 'let_go'),
      accuracy_percent: figure(v, 'accuracy'),
    },
    notes: {
      restart: (text(v, 'restart') || '') as Shape['LoadNotesRead']['restart'],
      low_current: v.low_current === 'on' ? true : v.low_current === 'off' ? false : null,
      modes: text(v, 'modes').split(/\s*,\s*/).filter(Boolean),
      certified: v.certified === 'yes' ? true : v.certified === 'no' ? false : null,
      outlet: text(v, 'outlet'),
      levels: [],
    },
    gauge_typed: text(v, 'gauge'),
  }),
}

const recharge: FormOf = {
  kind: 'recharge',
  button: 'Recharge',
  title: (label) => `Recharge of ${label}`,
  hint: `Choose the log of the cord in, or type the time and the Wh. From empty to full it gives the round trip. ${LEVEL}`,
  fields: () => [
    { key: 'file', name: 'log of the cord in', type: 'file' },
    { key: 'before', name: 'pack before', type: 'text', example: '0' },
    { key: 'minutes', name: 'minutes', type: 'number', example: '196' },
    { key: 'wh', name: 'Wh taken', type: 'number', example: '41.3' },
    { key: 'full', name: 'it was full', type: 'tick' },
    { key: 'watts', name: 'best watts', type: 'number', example: '17.6', more: true },
    { key: 'volts', name: 'at volts', type: 'number', example: '9', more: true },
    ACCURACY,
  ],
  needs: [],
  body: (v) => ({
    recharge: {
      before: text(v, 'before'),
      after: '',
      minutes: figure(v, 'minutes'),
      wh: figure(v, 'wh'),
      watts: figure(v, 'watts'),
      volts: figure(v, 'volts'),
      full: ticked(v, 'full'),
      accuracy_percent: figure(v, 'accuracy'),
      file: '',
    },
  }),
}

const standby: FormOf = {
  kind: 'standby',
  button: 'Left unused',
  title: (label) => `${label}, left unused`,
  hint: `Two readings of its level are enough, some days apart. ${LEVEL}`,
  fields: () => [
    { key: 'first', name: 'level at first', type: 'text', example: '100' },
    { key: 'last', name: 'level at last', type: 'text', example: '85' },
    { key: 'days', name: 'days between', type: 'number', example: '30' },
  ],
  needs: ['first', 'last', 'days'],
  body: (v) => ({ standby: { first: text(v, 'first'), last: text(v, 'last'), days: figure(v, 'days') ?? NaN } }),
}

const passed: FormOf = {
  kind: 'pass_through',
  button: 'Passing power through',
  title: (label) => `${label}, charged while it charges`,
  hint: 'Fill the pack first, then feed something through it. Choose both logs, on one clock, or type both energies.',
  fields: () => [
    { key: 'file', name: 'log of the cord in', type: 'file' },
    { key: 'second_file', name: 'log of the output', type: 'file' },
    { key: 'in_wh', name: 'or Wh in', type: 'number', example: '20' },
    { key: 'out_wh', name: 'Wh out', type: 'number', example: '14' },
    { key: 'minutes', name: 'minutes', type: 'number', example: '60' },
    ACCURACY,
  ],
  needs: [],
  body: (v) => ({
    passed: {
      in_wh: figure(v, 'in_wh'),
      out_wh: figure(v, 'out_wh'),
      minutes: figure(v, 'minutes'),
      accuracy_percent: figure(v, 'accuracy'),
      in_file: '',
      out_file: '',
    },
  }),
}

export const GIVEN: FormOf = {
  kind: 'phone_to_phone',
  button: 'Charge a phone from it',
  title: (label) => `A phone charged from ${label}`,
  hint: 'A line for each moment, both phones read at once: minutes, the one that gives, the one that takes.',
  fields: () => [
    { key: 'taker', name: 'the phone that takes', type: 'phone' },
    { key: 'typed', name: 'minutes, giver %, taker %', type: 'lines', example: '0 84 12\n30 71 23\n60 58 34' },
    { key: 'by_cord', name: 'by cord', type: 'tick' },
    { key: 'hottest', name: 'giver at its hottest, °C', type: 'number', example: '41' },
  ],
  needs: ['taker', 'typed'],
  body: (v) => ({
    given: { taker: text(v, 'taker'), typed: v.typed ?? '', readings: [], by_cord: ticked(v, 'by_cord'), hottest_c: figure(v, 'hottest') },
  }),
}

/** The tests of a pack, the first the strongest. */
export const FORMS: readonly FormOf[] = [charge, load, recharge, standby, passed]
