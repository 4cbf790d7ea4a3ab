import { describe, expect, it } from 'vitest'
import { ampHours, digitsOf, duration, jobNumber, millivolts, timeLeft, volts } from '@/composables/format'
import { pointWords } from '@/composables/points'

describe('quantities as they are written', () => {
  it('shows no more digits than the meter has', () => {
    expect(digitsOf(0.01)).toBe(2)
    expect(digitsOf(0.001)).toBe(3)
    expect(digitsOf(0.1)).toBe(1)
    expect(digitsOf(0.0001)).toBe(3)
    expect(volts(4.1049, digitsOf(0.01))).toBe('4.10')
  })

  it('writes a true minus, and a dash for what is not known', () => {
    expect(volts(-0.4)).toBe('−0.40')
    expect(volts(null)).toBe('–')
    expect(millivolts(-0.68)).toBe('−680')
    expect(millivolts(0.0102)).toBe('+10')
    expect(millivolts(-0.0003)).toBe('±0')
    expect(millivolts(null)).toBe('')
  })

  it('tells time left in hours and minutes and never below zero', () => {
    expect(timeLeft(18 * 60_000)).toBe('0:18')
    expect(timeLeft((21 * 60 + 5) * 60_000)).toBe('21:05')
    expect(timeLeft(-5)).toBe('0:00')
    expect(duration(59.6 * 60)).toBe('1 h 00')
    expect(duration(2400)).toBe('40 min')
  })

  it('names points and jobs as the technician does', () => {
    expect(pointWords({ kind: 'tap', tap: 5 })).toBe('tap 5 against tap 0')
    expect(pointWords({ kind: 'span', from_tap: 2, to_tap: 5 })).toBe('tap 5 against tap 2')
    expect(pointWords({ kind: 'pack' })).toBe('pack terminals')
    expect(jobNumber(7)).toBe('0007')
    expect(ampHours(0.414)).toBe('0.41')
    expect(ampHours(3.36)).toBe('3.4')
  })
})
