import type { Sheet } from './usePatterns'

/** The sections of a sheet as they are shown and typed in, in the order in which hands want them. */
export type Section = 'contacts' | 'photos' | 'opening' | 'plugs' | 'boards' | 'codes' | 'normals' | 'quirks' | 'faults' | 'cells' | 'parts' | 'closing'
export type Statement = Sheet[Section][number]

export interface Field {
  key: string
  label: string
  kind: 'text' | 'number' | 'whole' | 'choice' | 'many' | 'list' | 'groups' | 'photo' | 'pins'
  options?: Record<string, string>
  unit?: 'V' | 'Ω' | 'Ah' | 'min' | '°C'
  wide?: boolean
  max?: number
}

export interface SectionForm {
  name: string
  /** What stands there while nothing does. */
  teaches: string
  adds: string
  /** The fields that tell a line from the others. */
  keys: string[]
  fields: Field[]
}

export const TOUCHES = { minus: 'pack minus', plus: 'pack plus', tap: 'a tap', sensor: 'the sensor', data: 'data', other: 'something else' }
export const MEANS = { temperature: 'temperature', cell: 'a cell', communication: 'it cannot talk to the charger', unknown: 'not known' }
export const CARRIES = { balance: 'balance wires', sensor: 'sensor', output: 'output', other: 'something else' }
export const NORMALS = {
  sensor_ohm: { name: 'sensor', unit: 'Ω' }, group_ohm: { name: 'a group’s resistance', unit: 'Ω' }, leak_ma: { name: 'a group’s leak', unit: 'mA' }, idle_ma: { name: 'its own draw', unit: 'mA' },
  charger_end_v: { name: 'its charger ends at', unit: 'V' }, cut_off_v: { name: 'its device cuts off at', unit: 'V' },
}
const READS = Object.fromEntries(Object.entries(NORMALS).map(([key, { name, unit }]) => [key, `${name}, ${unit}`]))
export const HAS = { over_charge: 'over-charge', over_discharge: 'over-discharge', over_current: 'over-current', short_circuit: 'short circuit', temperature: 'temperature', fuse: 'a fuse', group_limits: 'limits of each group', balancing: 'balancing' }
export const SOURCES = { told: 'told', data_sheet: 'data sheet', job: 'a job' }

const text = (key: string, label: string, max = 60, wide = false): Field => ({ key, label, kind: 'text', max, wide })
const steps = (name: string, teaches: string, adds: string): SectionForm => ({
  name, teaches, adds, keys: ['does'],
  fields: [text('does', 'What is done', 240, true), text('tool', 'Tool and bit'), { key: 'photo', label: 'Photo that shows it', kind: 'photo' }, text('caution', 'What can hurt or break here, such as what not to cut', 160, true)],
})

export const FORMS: Record<Section, SectionForm> = {
  contacts: {
    name: 'Contacts outside', teaches: 'What can be touched without opening it, and what a healthy one reads there.', adds: 'Add a contact', keys: ['contact'],
    fields: [text('contact', 'Contact, as it is marked or lies'), { key: 'touches', label: 'Behind it', kind: 'choice', options: TOUCHES }, { key: 'tap', label: 'Tap, of a tap', kind: 'whole' }, { key: 'volts', label: 'Reads at rest', kind: 'number', unit: 'V' }, { key: 'ohm', label: 'Ohms in a room', kind: 'number', unit: 'Ω' }, text('says', 'What else')],
  },
  photos: { name: 'Photos', teaches: 'The case and the opened pack, with a pin on each point to touch.', adds: 'Add a photo', keys: ['photo'], fields: [text('photo', 'What it shows')] },
  opening: steps('Opening', 'Screws and where they hide, clips, glue, what not to cut.', 'Add a step'),
  plugs: {
    name: 'Connectors', teaches: 'Balance and sensor plugs, pin by pin, with the wires as the hand sees them.', adds: 'Add a connector', keys: ['plug'],
    fields: [text('plug', 'Connector'), { key: 'carries', label: 'Carries', kind: 'choice', options: CARRIES }, { key: 'pins', label: 'A pin a line: number, wire, tap or sensor, such as “1 black 0”, “2 red 1 3.7 V” or “6 white sensor 1”', kind: 'pins', wide: true }],
  },
  boards: {
    name: 'Boards', teaches: 'Which revisions there are, and what tells them apart.', adds: 'Add a board', keys: ['board', 'revision'],
    fields: [text('board', 'Board'), text('revision', 'Revision'), text('told_by', 'Told by'), text('says', 'What else'), { key: 'has', label: 'It protects against', kind: 'many', options: HAS, wide: true }, { key: 'swaps_with', label: 'May be swapped with revisions', kind: 'list', wide: true }],
  },
  codes: {
    name: 'Codes', teaches: 'What lamps and buzzers show, and what it means.', adds: 'Add a code', keys: ['by', 'shows', 'revision'],
    fields: [text('shows', 'Shows, such as “three short, one long”'), { key: 'by', label: 'Seen or heard', kind: 'choice', options: { lamp: 'lamp', beep: 'beep' } }, { key: 'means', label: 'At fault', kind: 'choice', options: MEANS }, text('says', 'It means'), text('revision', 'Of board revision, if not all')],
  },
  normals: {
    name: 'Healthy readings', teaches: 'What a good one reads: its sensor, its groups, its own draw, where charger and device end.', adds: 'Add a reading', keys: ['reads', 'at_c'],
    fields: [{ key: 'reads', label: 'What is read', kind: 'choice', options: READS, wide: true }, { key: 'value', label: 'Reads', kind: 'number' }, { key: 'low', label: 'Healthy from', kind: 'number' }, { key: 'high', label: 'Healthy up to', kind: 'number' }, { key: 'at_c', label: 'At', kind: 'number', unit: '°C' }],
  },
  quirks: {
    name: 'Quirks', teaches: 'What is odd and no fault.', adds: 'Add a quirk', keys: ['says'],
    fields: [text('says', 'What is odd', 240, true), { key: 'feeds_board', label: 'Groups that feed its board, if that is it', kind: 'groups' }],
  },
  faults: {
    name: 'Faults as told', teaches: 'What it usually has, as a sheet or somebody tells; what jobs had counts by itself.', adds: 'Add a fault', keys: ['cause'],
    fields: [{ key: 'cause', label: 'Cause', kind: 'choice', wide: true }, { key: 'seen', label: 'On how many packs', kind: 'whole' }, { key: 'minutes', label: 'Minutes at the bench', kind: 'number', unit: 'min' }, text('says', 'What to look for', 60, true)],
  },
  cells: { name: 'Cells found in it', teaches: 'Types of cell that were found in it.', adds: 'Add a cell type', keys: ['cell'], fields: [text('cell', 'Cell'), text('size', 'Size')] },
  parts: { name: 'Parts', teaches: 'What it may want.', adds: 'Add a part', keys: ['part'], fields: [text('part', 'Part'), { key: 'count', label: 'How many', kind: 'whole' }, text('says', 'What else')] },
  closing: steps('Closing', 'In which order it goes together, and what is new each time.', 'Add a step'),
}

/** A line's key in its section, as the API names it. */
export const keyOf = (section: Section, line: Statement) => FORMS[section].keys.map((key) => String((line as Record<string, unknown>)[key] ?? '')).join('/').toLowerCase()

type Pin = Sheet['plugs'][number]['pins'][number]
/** “1 black 0”, “6 white sensor 1”: a pin's number, its wire, and where it goes; null for a line that says no number. */
export function pinOf(line: string): Pin | null {
  const found = /^\s*(\d+)[\s,;:]+(.*)$/.exec(line)
  if (!found) return null
  const read = /^(.*?)\s+(\d+(?:[.,]\d+)?)\s*v\s*$/i.exec(found[2]!)
  const rest = (read ? read[1]! : found[2]!).replace(/[,;]/g, ' ').trim()
  const sensor = /^(.*?)\s*\b(sensor\s*\d*)\s*$/i.exec(rest)
  const tap = /^(.*?)\s*(?:tap\s*)?(\d+)\s*$/i.exec(rest)
  const pin = { pin: Number(found[1]), volts: read ? Number(read[2]!.replace(',', '.')) : null }
  if (sensor) return { ...pin, wire: sensor[1]!.trim(), tap: null, sensor: sensor[2]!.trim() }
  return tap ? { ...pin, wire: tap[1]!.trim(), tap: Number(tap[2]), sensor: '' } : { ...pin, wire: rest, tap: null, sensor: '' }
}
export const pinLine = (pin: Pin) => [pin.pin, pin.wire, pin.tap ?? pin.sensor, typeof pin.volts === 'number' ? `${pin.volts} V` : ''].filter((part) => part !== '' && part !== null && part !== undefined).join(' ')
