import { describe, expect, it } from 'vitest'
import { digitsTyped, parseNumber, parseVolts, stepOf } from '@/composables/parseVolts'
import { splitLine } from '@/forms/quantity'

const group = { low: 3.95, high: 4.2 }
const cell = { low: -0.5, high: 4.35 }

describe('numbers as they are typed at the bench', () => {
  it.each([
    ['4.11', 4.11],
    ['4,11', 4.11],
    [' 4,1 ', 4.1],
    ['-0.3', -0.3],
    ['−0,3', -0.3],
    ['0', 0],
  ])('reads %s', (text, value) => expect(parseNumber(text)).toBe(value))

  it.each(['', 'x', '4.1.1', '4 11', '1e3', '--4', 'NaN'])('refuses %s', (text) => expect(parseNumber(text)).toBeNull())

  it('takes digits without a point as what is expected', () => {
    expect(parseVolts('411', group, cell)).toBe(4.11)
    expect(parseVolts('41', group, cell)).toBe(4.1)
    expect(parseVolts('4105', group, cell)).toBe(4.105)
  })

  it('falls back to what is possible when a sibling is not', () => {
    expect(parseVolts('342', group, cell)).toBe(3.42)
  })

  it('reads a tap high in the string by its own range', () => {
    expect(parseVolts('3630', { low: 36.1, high: 36.5 }, { low: 32, high: 37 })).toBe(36.3)
    expect(parseVolts('363', { low: 36.1, high: 36.5 }, { low: 32, high: 37 })).toBe(36.3)
  })

  it('never moves a point that was typed, and leaves what fits nothing for the question', () => {
    expect(parseVolts('41.1', group, cell)).toBe(41.1)
    expect(parseVolts('99', group, cell)).toBe(99)
    expect(parseVolts('9', group, cell)).toBe(9)
  })

  it('splits a line at blanks and semicolons, not at the decimal comma', () => {
    expect(splitLine(' 4,11  8.22;12,33 ')).toEqual(['4,11', '8.22', '12,33'])
    expect(splitLine('   ')).toEqual([])
  })

  it.each([
    ['4.11', 4.11, 0.01],
    ['4,110', 4.11, 0.001],
    ['411', 4.11, 0.01],
    ['41', 4.1, 0.1],
    ['12.3', 12.3, 0.1],
    ['4', 4, null],
    ['0.000', 0, 0.001],
    ['-3.912', -3.912, 0.001],
  ])('%s was shown in steps of its last digit', (text, volts, step) => {
    expect(stepOf(text, volts)).toBe(step)
    // And is shown again as it was typed.
    if (step) expect(volts.toFixed(digitsTyped(step, 9)).replace('-', '')).toContain(String(Math.abs(volts)))
  })
})
