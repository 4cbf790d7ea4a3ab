import { parseNumber } from '@/composables/parseVolts'

/** "red 11,62": a lead and its volts. A number alone is the next numbered lead; a name alone is the reference, at 0. */
export function parseLead(line: string, known: string[]): { lead: string; volts: number } | null {
  const words = line.trim().split(/\s+/)
  if (!words[0]) return null
  const volts = parseNumber(words.at(-1)!)
  if (volts === null) return known.length === 0 ? { lead: words.join(' '), volts: 0 } : null
  const name = words.slice(0, -1).join(' ')
  if (name) return { lead: name, volts }
  let n = 1
  while (known.includes(String(n))) n++
  return { lead: String(n), volts }
}
