import { parseNumber, parseVolts, type Range } from '@/composables/parseVolts'

export interface NotedLead {
  lead: string
  volts: number
  /** A second value on the same line: the lead wanders. */
  again?: number
}

/**
 * "red 11,62": a lead and its volts. A number alone is the next numbered lead. The first is the reference, which reads
 * 0: what stands there is its name, "tape 3" too. 780 is 7.80 V where the string reaches no further; two values after a name
 * say that it wanders.
 */
export function parseLead(line: string, known: string[], string_: Range = { low: -1000, high: 1000 }): NotedLead | null {
  const words = line.trim().split(/\s+/)
  if (!words[0]) return null
  const meant = (word: string) => parseVolts(word, { low: 0, high: string_.high }, string_)
  const volts = meant(words.at(-1)!)
  if (known.length === 0 && volts !== 0) return { lead: words.join(' '), volts: 0 }
  if (volts === null) return null
  // "tape 3 7.8" is the lead "tape 3", unless "tape" is known: then it is two values.
  const wanders = words.length > 2 && parseNumber(words.at(-2)!) !== null && (known.includes(words.slice(0, -2).join(' ')) || /[.,]/.test(words.at(-2)!))
  if (wanders) return { lead: words.slice(0, -2).join(' '), volts: meant(words.at(-2)!)!, again: volts }
  const name = words.slice(0, -1).join(' ')
  if (name) return { lead: name, volts }
  let n = 1
  while (known.includes(String(n))) n++
  return { lead: String(n), volts }
}
