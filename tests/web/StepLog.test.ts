import { describe, expect, it } from 'vitest'
import { StepLog } from '@/stages/measures/StepLog'

describe('a logged step', () => {
  it('leaves out the value at the jump, whose volts may be from before, and what is read twice', () => {
    const log = new StepLog()
    const values = [[0, 3.9, 0.001], [0.2, 3.9, 0.002], [0.2, 3.9, 0.002], [0.4, 3.9, 5], [0.6, 3.8, 5.01], [0.8, 3.79, 5], [1, 3.79, 0], [1.2, 3.88, 0]]
    for (const [at_s, volts, amps] of values) log.see({ at_s: at_s!, volts: volts!, amps: amps! })
    expect(log.points.map((p) => p.at_s)).toEqual([0, 0.2, 0.6, 0.8, 1.2])
    expect(log.step).toBeCloseTo(5.01, 6)
  })
})
