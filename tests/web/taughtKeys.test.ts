import { describe, expect, it } from 'vitest'
import { PEDALS, Scan } from '../../web/src/composables/taughtKeys'

const type = (scan: Scan, text: string, everyMs: number, end: string) => {
  let at = 1000
  for (const sign of text) expect(scan.press(sign, (at += everyMs))).toBeNull()
  return scan.press(end, at + everyMs)
}

describe('a scanner that types', () => {
  it('is told from a hand by how fast its signs come, whatever ends them', () => {
    const scan = new Scan()
    expect(type(scan, 'K-0231', 8, 'Enter')).toEqual({ text: 'K-0231', end: 'Enter', fast: true })
    expect(type(scan, 'K-0231', 8, 'Tab')).toEqual({ text: 'K-0231', end: 'Tab', fast: true })
    expect(type(scan, 'K-0231', 140, 'Enter')).toEqual({ text: 'K-0231', end: 'Enter', fast: false })
    expect(type(scan, 'ab', 5, 'Enter')?.fast).toBe(false)
  })

  it('reads one label at a time, and keys that are no signs are none of it', () => {
    const scan = new Scan()
    expect(scan.press('Enter', 0)).toBeNull()
    scan.press('A', 10)
    scan.press('Shift', 12)
    scan.press('B', 14)
    scan.press('C', 18)
    expect(scan.press('Enter', 20)).toEqual({ text: 'ABC', end: 'Enter', fast: true })
    expect(type(scan, 'XYZ', 6, 'Enter')?.text).toBe('XYZ')
  })
})

describe('a pedal', () => {
  it('sends a key that nothing else uses', () => {
    for (const key of ['PageDown', 'F13', 'MediaPlayPause']) expect(PEDALS.test(key)).toBe(true)
    for (const key of ['a', '5', 'Enter', 'ArrowLeft', 'Tab', '.', 'Backspace']) expect(PEDALS.test(key)).toBe(false)
  })
})
