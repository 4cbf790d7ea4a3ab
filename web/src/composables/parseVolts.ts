/** Numbers as they are typed at the bench: 4.11, 4,11 and 411 mean the same where the expected range allows. */

import { quantity } from '@/forms/quantity'

export interface Range {
  low: number
  high: number
}

const WITH_UNIT = /[a-z]\s*$/i
const NUMBER = /^[-−+]?\d+([.,]\d+)?$/

/** One bare number with point or comma; null when it is none. Fields of forms read theirs with `quantity`. */
export function parseNumber(text: string): number | null {
  const trimmed = text.trim()
  if (!NUMBER.test(trimmed)) return null
  return Number(trimmed.replace(',', '.').replace('−', '-'))
}

const wholeDigits = (value: number) => Math.max(1, Math.trunc(Math.abs(value)).toString().length)

/**
 * The volts meant by `text`. Digits without a point get theirs where the expected voltage has it, so 411 is 4.11 V at a
 * group; when that is neither expected nor possible the number stays as typed, to be questioned.
 */
export function parseVolts(text: string, expected: Range, possible: Range): number | null {
  // Said with its unit it is meant as it stands.
  if (WITH_UNIT.test(text)) return quantity(text, 'V')
  const value = parseNumber(text)
  if (value === null || /[.,]/.test(text) || Math.abs(value) < 10) return value
  const typed = wholeDigits(value)
  const meant = [expected.low, expected.high]
    .map((bound) => typed - wholeDigits(bound))
    .filter((shift) => shift >= 0)
    .map((shift) => value / 10 ** shift)
  const within = (range: Range) => meant.find((v) => v >= range.low && v <= range.high)
  return within(expected) ?? within(possible) ?? value
}

/**
 * The step of the display that a number was typed from, as its digits tell: 4.11 and 411 taken for 4.11 are of 10 mV.
 * None where a whole number was typed and taken as it is: no meter shows volts so.
 */
export function stepOf(text: string, volts: number): number | null {
  const decimals = (/[.,](\d+)/.exec(text)?.[1]?.length ?? 0) + (/mv\s*$/i.test(text) ? 3 : 0)
  if (WITH_UNIT.test(text)) return decimals > 0 ? Number((10 ** -decimals).toFixed(decimals)) : null
  const typed = Math.abs(parseNumber(text) ?? 0)
  const shift = decimals || typed === 0 || volts === 0 ? 0 : Math.round(Math.log10(typed / Math.abs(volts)))
  const digits = decimals || shift
  return digits > 0 ? Number((10 ** -digits).toFixed(digits)) : null
}

/** Digits after the point that a number was typed with. */
export const digitsTyped = (step: number | null | undefined, otherwise: number) => (step ? Math.max(0, Math.round(-Math.log10(step))) : otherwise)
