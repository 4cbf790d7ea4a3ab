/** Numbers as they are typed at the bench: 4.11, 4,11 and 411 mean the same where the expected range allows. */

export interface Range {
  low: number
  high: number
}

const NUMBER = /^[-−+]?\d+([.,]\d+)?$/

/** One number with point or comma; null when it is none. */
export function parseNumber(text: string): number | null {
  const trimmed = text.trim()
  if (!NUMBER.test(trimmed)) return null
  return Number(trimmed.replace(',', '.').replace('−', '-'))
}

/** The volts meant by `text`: digits without a point are divided by ten until they fit what is expected, else possible. */
export function parseVolts(text: string, expected: Range, possible: Range): number | null {
  const value = parseNumber(text)
  if (value === null || /[.,]/.test(text) || Math.abs(value) < 10) return value
  const readings = [value, value / 10, value / 100, value / 1000]
  const within = (range: Range) => readings.find((v) => v >= range.low && v <= range.high)
  return within(expected) ?? within(possible) ?? value
}

/** The numbers on a line, separated by blanks or semicolons. */
export const splitLine = (line: string) => line.trim().split(/[\s;]+/).filter(Boolean)
