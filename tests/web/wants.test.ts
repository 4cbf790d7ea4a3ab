import { describe, expect, it } from 'vitest'
import { wantsOf } from '@/bench/wants'

function job(over: { facts?: object; assessment?: object } = {}) {
  return {
    facts: { intakes: [{ intake: { pack: { series: 12 } } }], safety: [{}], charges: [], ...over.facts },
    assessment: { frozen: false, quarantine: [], probe: null, proof: null, ...over.assessment },
  } as never
}
const groups = (known: number) => Array.from({ length: 12 }, (_, i) => ({ determined: i < known }))

describe('what a stage still wants', () => {
  it('asks for the safety screen before anything else', () => {
    const unscreened = job({ facts: { safety: [] } })
    expect(wantsOf(unscreened, 'take_in')).toBe('safety')
    expect(wantsOf(unscreened, 'probe')).toBe('')
  })

  it('says so while a pack is held', () => {
    const held = job({ assessment: { quarantine: [{}] } })
    expect(wantsOf(held, 'take_in')).toBe('held')
    expect(wantsOf(held, 'level')).toBe('')
  })

  it('counts the groups that are settled', () => {
    expect(wantsOf(job(), 'probe')).toBe('0 of 12')
    const some = (known: number, kind = 'cannot_tell') => job({ assessment: { probe: { reconciled: { groups: groups(known) }, verdict: { kind } } } })
    expect(wantsOf(some(9), 'probe')).toBe('9 of 12')
    expect(wantsOf(some(12), 'probe')).toBe('')
    expect(wantsOf(some(12, 'readings_inconsistent'), 'judge')).toBe('doubt')
  })

  it('tells what charges and what is not proved, and nothing once signed', () => {
    const late = (frozen: boolean) => job({ facts: { charges: [{ end: null }, { end: {} }] }, assessment: { frozen, proof: { result: 'not_yet' } } })
    expect(wantsOf(late(false), 'level')).toBe('charging')
    expect(wantsOf(late(false), 'prove')).toBe('not yet')
    expect(wantsOf(late(true), 'level')).toBe('')
  })
})
