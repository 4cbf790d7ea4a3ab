import { expect, it } from 'vitest'
import type { Schemas } from '@/api/client'
import { dimensions } from '@/figures/ladder'

const set = (readings: unknown[], findings: unknown[] = []) =>
  ({ readings, reconciled: { findings, residuals_v: readings.map(() => 0.001) } }) as unknown as Schemas['Assessed']

it('draws each reading between its taps, short ones next to the string, and none across another', () => {
  const lines = dimensions(set([
    { kind: 'tap', tap: 3, volts: 12 },
    { kind: 'group', group: 1, volts: 4 },
    { kind: 'group', group: 2, volts: 4 },
    { kind: 'span', from_tap: 1, to_tap: 3, volts: 8 },
    { kind: 'pack', volts: 16 },
  ], [{ kind: 'wrong_reading', reading: 3, because: '' }]), 4)
  expect(lines.map((l) => [l.low, l.high])).toEqual([[0, 3], [0, 1], [1, 2], [1, 3], [0, 4]])
  expect(lines.map((l) => l.doubted)).toEqual([false, false, false, true, false])
  expect([lines[1]!.column, lines[2]!.column]).toEqual([0, 0])
  for (const a of lines) {
    for (const b of lines) {
      if (a !== b && a.column === b.column) expect(a.high <= b.low || b.high <= a.low).toBe(true)
    }
  }
  expect(lines[4]!.column).toBeGreaterThan(lines[0]!.column)
  expect(lines[0]!.point).toEqual({ kind: 'tap', tap: 3 })
})
