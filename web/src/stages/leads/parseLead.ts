import { parseNumber } from '@/composables/parseVolts'

/**
 * "red 11,62": a lead and its volts. A number alone is the next numbered lead. The first is the reference, which reads
 * 0: what stands there is its name, "tape 3" too.
 */
export function parseLead(line: string, known: string[]): { lead: string; volts: number } | null {
  const words = line.trim().split(/\s+/)
  if (!words[0]) return null
  const volts = parseNumber(words.at(-1)!)
  if (known.length === 0 && volts !== 0) return { lead: words.join(' '), volts: 0 }
  if (volts === null) return null
  const name = words.slice(0, -1).join(' ')
  if (name) return { lead: name, volts }
  let n = 1
  while (known.includes(String(n))) n++
  return { lead: String(n), volts }
}
