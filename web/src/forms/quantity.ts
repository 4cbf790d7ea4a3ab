/** Quantities as people type them: “3,9 V”, “3900mV”, “45 €”, “1h20”, “4000 mAh”. One reader for every field of every form. */

export type Unit = 'V' | 'A' | 'Ah' | 'Wh' | 'W' | 'Ω' | 'mΩ' | 'min' | 'h' | 'days' | '°C' | '°F' | 'mm' | 'g' | 'N' | 'J' | '%' | 'years' | 'money'

const NUMBER = String.raw`[-−+]?(?:\d+(?:[.,]\d+)?|[.,]\d+)`

/** What may stand behind the number, and how many of the field's unit it is. A bare number is of the field's own unit. */
const UNITS: Record<Unit, Record<string, number>> = {
  V: { v: 1, volt: 1, volts: 1, mv: 1e-3, kv: 1e3 },
  A: { a: 1, amp: 1, amps: 1, ma: 1e-3, µa: 1e-6, ua: 1e-6 },
  Ah: { ah: 1, mah: 1e-3 },
  Wh: { wh: 1, mwh: 1e-3, kwh: 1e3 },
  W: { w: 1, watt: 1, watts: 1, mw: 1e-3, kw: 1e3 },
  Ω: { Ω: 1, ω: 1, ohm: 1, ohms: 1, r: 1, k: 1e3, kω: 1e3, kohm: 1e3, mω: 1e-3, mohm: 1e-3, milliohm: 1e-3 },
  mΩ: { mω: 1, mohm: 1, milliohm: 1, ω: 1e3, ohm: 1e3, µω: 1e-3, uohm: 1e-3 },
  min: { min: 1, mins: 1, minute: 1, minutes: 1, m: 1, h: 60, hour: 60, hours: 60, hr: 60, s: 1 / 60, sec: 1 / 60 },
  h: { h: 1, hour: 1, hours: 1, hr: 1, min: 1 / 60, mins: 1 / 60, minutes: 1 / 60, m: 1 / 60, d: 24, day: 24, days: 24 },
  days: { d: 1, day: 1, days: 1, h: 1 / 24, hours: 1 / 24, week: 7, weeks: 7 },
  '°C': { c: 1, '°c': 1, '°': 1, deg: 1, celsius: 1 },
  '°F': { f: 1, '°f': 1, '°': 1, deg: 1, fahrenheit: 1 },
  mm: { mm: 1, cm: 10, m: 1000, µm: 1e-3, um: 1e-3 },
  g: { g: 1, kg: 1000, mg: 1e-3 },
  N: { n: 1, kg: 9.80665, kgf: 9.80665, g: 9.80665e-3 },
  J: { j: 1, ws: 1, mj: 1e-3, kj: 1e3 },
  '%': { '%': 1, percent: 1, pc: 1 },
  years: { y: 1, yr: 1, yrs: 1, year: 1, years: 1, a: 1, month: 1 / 12, months: 1 / 12 },
  money: {},
}

/** A worked answer for each unit, told where what was typed is none. */
const SUCH: Partial<Record<Unit, string>> = {
  V: '3.9 (3,9 V and 3900 mV are understood)', A: '1.5 (1,5 A and 1500 mA are understood)', Ah: '4 (4 Ah and 4000 mAh are understood)', min: '25 (25 min and 1 h 20 are understood)',
  h: '1.5 (1 h 30 and 90 min are understood)', years: '3 (3-4 years and 18 months are understood)', money: '45 (45 € and 45,50 are understood)', mΩ: '12 (12 mΩ and 0,012 Ω are understood)', Ω: '10000 (10 kΩ and 47 mΩ are understood)',
}

// A price above it is a slip.
const MOST_MONEY = 1e6

const numberOf = (text: string) => Number(text.replace(',', '.').replace('−', '-'))
/** No more digits than a hand types: 0.1 × 3 is 0.3. */
const tidy = (value: number) => Number(value.toPrecision(12))

/** 1h20, 1 h 20 min, 1:20, in hours. */
function hoursMinutes(text: string): number | null {
  const found = /^(\d+)\s*(?::|h|hours?|hrs?)\s*(\d{1,2})\s*(?:m|mins?|minutes?)?$/i.exec(text)
  return found && Number(found[2]) < 60 ? Number(found[1]) + Number(found[2]) / 60 : null
}

/** The number that is meant, in the unit of the field; null where it is none. */
export function quantity(text: string, unit?: Unit): number | null {
  const typed = text.trim()
  if (unit === 'min' || unit === 'h') {
    const hours = hoursMinutes(typed)
    if (hours !== null) return tidy(unit === 'h' ? hours : hours * 60)
  }
  if (unit === 'years') {
    const range = new RegExp(`^(\\d+(?:[.,]\\d+)?)\\s*(?:-|–|to)\\s*(\\d+(?:[.,]\\d+)?)\\s*([a-z]*)$`, 'i').exec(typed)
    const each = range ? (range[3] ? UNITS.years[range[3].toLowerCase()] : 1) : undefined
    if (range && each) return tidy(((numberOf(range[1]!) + numberOf(range[2]!)) / 2) * each)
  }
  if (unit === 'money') {
    const found = new RegExp(`^(?:\\p{Sc}|[A-Za-z]{3})?\\s*(${NUMBER})\\s*(?:\\p{Sc}|[A-Za-z]{2,3})?(?:\\s*/\\s*h)?$`, 'u').exec(typed)
    return found ? numberOf(found[1]!) : null
  }
  const found = new RegExp(`^(${NUMBER})\\s*(\\S*)$`).exec(typed)
  if (!found) return null
  if (!found[2]) return numberOf(found[1]!)
  const each = unit && (UNITS[unit][found[2]] ?? UNITS[unit][found[2].toLowerCase()])
  return each ? tidy(numberOf(found[1]!) * each) : null
}

/**
 * What a field sends: nothing where nothing is typed; the number; else the text itself, so that the program says of which field it is no
 * number. Nothing that is typed is ever sent as nothing.
 */
export function sent(text: string | undefined, unit?: Unit): number | null {
  if (!text?.trim()) return null
  return quantity(text, unit) ?? (text.trim() as unknown as number)
}

/** Milliohms as they are sent: in ohms. */
export function sentMilliohms(text: string | undefined): number | null {
  const value = sent(text, 'mΩ')
  return typeof value === 'number' ? tidy(value / 1000) : value
}

/** The numbers on a line, separated by blanks or semicolons. */
export const splitLine = (line: string) => line.trim().replace(/(\d)\s+(m?v)\b/gi, '$1$2').split(/[\s;]+/).filter(Boolean)

/** Several numbers on a line. */
export const sentLine = (line: string, unit?: Unit): number[] => splitLine(line).map((part) => sent(part, unit) as number)

/** What is wrong with a text, and what to type; null where it is a number or nothing. */
export function wrongWith(text: string | undefined, unit?: Unit, whole = false): string | null {
  if (!text?.trim()) return null
  const value = quantity(text, unit)
  if (value === null) return `type a number such as ${(unit && SUCH[unit]) ?? '4.5 (4,5 is understood)'}`
  if (unit === 'money' && (value < 0 || value > MOST_MONEY)) return value < 0 ? 'type what it costs, zero or more' : 'type a price below a million'
  return whole && !Number.isInteger(value) ? 'type a whole number' : null
}
