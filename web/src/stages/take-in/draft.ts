import type { Schemas } from '@/api/client'
import { sent } from '@/forms/quantity'

/** An intake as it is being typed: numbers are still text, and nothing is lost to a reload. */
export interface Draft {
  customer: string
  contact: string
  pack_name: string
  serial: string
  chemistry: Schemas['Pack']['chemistry'] | ''
  series: string
  parallel: string
  strings: string
  rated_ah: string
  load_a: string
  outside_taps: string
  symptoms: NonNullable<Schemas['Intake']['symptoms']>
  wishes: NonNullable<Schemas['Intake']['wishes']>
  note: string
  kind: Schemas['Intake']['kind']
  age_years: string
  has: Record<Has, boolean | null>
  /** What its label says, and how many contacts it has outside: what patterns are offered by. */
  label: string
  contacts: string
  board_levels: boolean | null
  pattern: { id: number; title: string; photo: string | null } | null
}

/** What packs may or may not have; null: as is usual for its kind. */
export type Has = 'has_board' | 'has_balance_wires' | 'has_sensor'
export const HAS: Record<Has, string> = { has_board: 'a protection board', has_balance_wires: 'balance wires', has_sensor: 'a temperature sensor' }
export const HAS_NOT: Record<Has, string> = { has_board: 'no protection board', has_balance_wires: 'no balance wires', has_sensor: 'no temperature sensor' }
const untold = (): Draft['has'] => ({ has_board: null, has_balance_wires: null, has_sensor: null })

/** What a pack is for, which tells which of its faults are likely. */
export const KINDS: Record<Draft['kind'], string> = { power_tool: 'tool', drone: 'drone', laptop: 'laptop, tablet', appliance: 'appliance', garden: 'garden', light: 'light', other: 'other' }

export type Answers = Record<keyof Schemas['Safety'], boolean | null>

export const emptyDraft = (): Draft => ({
  customer: '',
  contact: '',
  pack_name: '',
  serial: '',
  chemistry: '',
  series: '',
  parallel: '1',
  strings: '1',
  rated_ah: '',
  load_a: '',
  outside_taps: '',
  symptoms: [],
  wishes: [],
  note: '',
  kind: 'other',
  age_years: '',
  has: untold(),
  label: '',
  contacts: '',
  board_levels: null,
  pattern: null,
})

export const noAnswers = (): Answers => ({ swollen: null, leaking: null, hot: null, wet: null, crushed: null, smell: null })

export function draftOf(intake: Schemas['Intake']): Draft {
  const { pack } = intake
  return {
    customer: intake.customer,
    contact: intake.contact ?? '',
    pack_name: intake.pack_name,
    serial: intake.serial ?? '',
    chemistry: pack.chemistry,
    series: String(pack.series / pack.strings),
    parallel: String(pack.parallel),
    strings: String(pack.strings),
    rated_ah: String(Number((pack.rated_ah * pack.strings).toPrecision(10))),
    load_a: pack.load_a ? String(pack.load_a) : '',
    outside_taps: (intake.outside_taps ?? []).join(', '),
    symptoms: [...(intake.symptoms ?? [])],
    wishes: [...(intake.wishes ?? [])],
    note: intake.note ?? '',
    kind: intake.kind,
    age_years: intake.age_years == null ? '' : String(intake.age_years),
    has: { has_board: intake.has_board ?? null, has_balance_wires: intake.has_balance_wires ?? null, has_sensor: intake.has_sensor ?? null },
    label: '',
    contacts: '',
    board_levels: intake.board_levels ?? null,
    pattern: null,
  }
}

/** “5S2P” in either field says both, and “2 × 4S1P” that there are two strings of four; else each is its own number. */
const BUILD = /^(?:(\d+)\s*[x×*]\s*)?(\d+)\s*s\s*(?:(\d+)\s*p)?$/i
/** How many strings a build as typed tells of, “2” in “2 × 4S1P”; null where it tells of none. */
export const stringsIn = (text: string): string | null => BUILD.exec(text.trim())?.[1] ?? null
const AT = { strings: 1, series: 2, parallel: 3 } as const
function countOf(text: string, side: keyof typeof AT): number {
  const both = BUILD.exec(text.trim()) ?? (side === 'parallel' ? /^()()(\d+)\s*p$/i.exec(text.trim()) : null)
  const count = both?.[AT[side]]
  return count ? Number(count) : (sent(text) as number)
}
/** What was typed as no number is sent as it stands, and refused by its field. */
const times = (a: number, b: number): number => (typeof a === 'number' && typeof b === 'number' ? Number((a * b).toPrecision(10)) : a)

/** What “18 V 4 Ah”, “5S2P 4000 mAh” on a label tell of a pack; only what is there. `nominal_v`: of one group. */
export function labelOf(text: string, nominalV: number | null): Partial<Pick<Draft, 'series' | 'parallel' | 'strings' | 'rated_ah'>> {
  const build = /(?:(\d+)\s*[x×*]\s*)?(\d+)\s*s\s*(?:(\d+)\s*p)?\b/i.exec(text)
  const { volts, ah } = labelFigures(text)
  const found: ReturnType<typeof labelOf> = {}
  if (build) Object.assign(found, { series: build[2] }, build[3] ? { parallel: build[3] } : {}, build[1] ? { strings: build[1] } : {})
  else if (volts && nominalV) {
    const series = Math.round(volts / nominalV)
    if (series >= 1) found.series = String(series)
  }
  if (ah) found.rated_ah = String(ah)
  return found
}

/** Volts and ampere-hours in what a label says; only what is there. */
export function labelFigures(text: string): { volts?: number; ah?: number } {
  const ah = /(\d+(?:[.,]\d+)?)\s*(mah|ah)\b/i.exec(text)
  const volts = /(\d+(?:[.,]\d+)?)\s*v\b/i.exec(text)
  return {
    ...(volts ? { volts: Number(volts[1]!.replace(',', '.')) } : {}),
    ...(ah ? { ah: sent(`${ah[1]} ${ah[2]}`, 'Ah') as number } : {}),
  }
}

/** What a pattern fills in; a name that is typed already stays. */
export function fromSheet(sheet: Schemas['PatternSheet'], draft: Draft): Partial<Draft> {
  const { pack } = sheet
  return {
    pack_name: labelFigures(draft.pack_name).volts || draft.pack_name.trim().length > sheet.title.length ? draft.pack_name : sheet.title,
    chemistry: pack.chemistry,
    series: String(pack.series / pack.strings),
    parallel: String(pack.parallel),
    strings: String(pack.strings),
    rated_ah: String(Number((pack.rated_ah * pack.strings).toPrecision(10))),
    load_a: pack.load_a ? String(pack.load_a) : '',
    outside_taps: sheet.outside_taps.join(', '),
    kind: sheet.kind,
    board_levels: sheet.board_levels ?? null,
    has: { has_board: sheet.has_board ?? null, has_balance_wires: sheet.has_balance_wires ?? null, has_sensor: sheet.has_sensor ?? null },
  }
}

export function packOf(draft: Draft): Schemas['Pack'] {
  // The hand says what one string has and what the whole pack holds; the pack counts its groups through.
  const build = BUILD.exec(draft.series.trim())
  const strings = build?.[1] ? Number(build[1]) : countOf(draft.strings || '1', 'strings')
  return {
    chemistry: draft.chemistry as Schemas['Pack']['chemistry'],
    series: times(countOf(draft.series, 'series'), strings),
    strings,
    parallel: countOf(build?.[3] ? draft.series : draft.parallel, 'parallel'),
    rated_ah: times(sent(draft.rated_ah, 'Ah') as number, strings >= 1 ? 1 / strings : 1),
    load_a: sent(draft.load_a, 'A'),
  }
}

export function intakeOf(draft: Draft): Schemas['Intake'] {
  return {
    customer: draft.customer.trim(),
    contact: (draft.contact ?? '').trim(),
    pack_name: draft.pack_name.trim(),
    serial: draft.serial.trim(),
    pack: packOf(draft),
    symptoms: draft.symptoms,
    wishes: draft.wishes ?? [],
    note: draft.note,
    kind: draft.kind ?? 'other',
    age_years: sent(draft.age_years, 'years'),
    board_levels: draft.board_levels ?? null,
    ...(draft.has ?? untold()),
    outside_taps: (draft.outside_taps ?? '').split(/[\s,;]+/).filter(Boolean).map((t) => sent(t) as number),
  }
}

/** The safety screen, once every question is answered. */
export function safetyOf(answers: Answers): Schemas['Safety'] | null {
  return Object.values(answers).every((a) => a !== null) ? (answers as Schemas['Safety']) : null
}
