import { describe, expect, it } from 'vitest'
import { expected, telling } from '@/composables/useAlarms'

const at = (minutes: number) => new Date(minutes * 60000).toISOString()
const charge = { job_id: 3, pack_name: 'Backpack', kind: 'charge', group: 7, charge_id: 12, since: at(0), done_low: at(80), done: at(90), done_high: at(110), look_again: at(10), simulated: null, cost: 'cells' } as never

describe('what will ring', () => {
  it('is each look and the finish, told once though they are reckoned anew by some seconds', () => {
    const first = expected([], [charge], 0)
    expect(first.map((a) => [a.what, a.at / 60000])).toEqual([['done', 90], ['passed', 110], ['near', 85], ['look', 10]])
    const again = expected(first, [{ ...(charge as object), look_again: at(10.4), done: at(91) } as never], 60000)
    expect(again.map((a) => [a.what, a.at / 60000])).toEqual([['done', 91], ['passed', 110], ['near', 86], ['look', 10]])
  })

  it('goes on ringing where it was not seen, and the next look comes beside it', () => {
    const known = expected([], [charge], 0)
    const later = expected(known, [{ ...(charge as object), look_again: at(80) } as never], 11 * 60000)
    expect(later.filter((a) => a.what === 'look').map((a) => a.at / 60000)).toEqual([10, 80])
    // A finish that rang stays where it rang.
    expect(expected(later, [{ ...(charge as object), done: at(140), look_again: null } as never], 91 * 60000).find((a) => a.what === 'done')!.at / 60000).toBe(90)
  })

  it('is silent of a charge that was ended, and rings for a rest that is over', () => {
    const rest = { ...(charge as object), kind: 'rest', group: null, charge_id: null, look_again: null, done: at(30) } as never
    const known = expected([], [charge, rest], 0)
    expect(expected(known, [], 20 * 60000)).toEqual([])
    expect(expected(known, [], 31 * 60000).map((a) => a.words)).toEqual(['Backpack has rested'])
  })
})

describe('what rings first', () => {
  const ring = { job_id: 3, pack_name: 'Backpack', group: 7, charge_id: 12, kind: 'too_fast', says: 'It rises too fast.', at: at(40), cost: 'danger' } as never

  it('is what should not wait; of a charge that is nearly done its looks ring no more', () => {
    const known = expected([], [charge], 0, [ring])
    expect(telling(known, 41 * 60000).map((a) => a.what)).toEqual(['ring', 'look'])
    expect(telling(known, 86 * 60000).map((a) => a.what)).toEqual(['ring', 'near'])
    expect(telling(known, 90 * 60000).map((a) => a.what)).toEqual(['ring', 'done'])
    // Past its forecast that is what rings, and not that it should be done.
    expect(telling(known, 110 * 60000).map((a) => a.what)).toEqual(['ring', 'passed'])
    // It ends: with it goes what rang of it.
    expect(expected(known, [], 91 * 60000)).toEqual([])
  })
})

describe('of several the dearest rings first', () => {
  it('by what it costs if it is missed, and only then by what it is', () => {
    const rest = { ...(charge as object), job_id: 4, kind: 'rest', group: null, charge_id: null, look_again: null, done: at(5), cost: 'time' } as never
    const slow = { job_id: 5, pack_name: 'Lamp', group: 1, charge_id: 20, kind: 'not_rising', says: 'It does not rise.', at: at(9), cost: 'cells' } as never
    const hot = { job_id: 6, pack_name: 'Pump', group: 1, charge_id: 30, kind: 'warm', says: '47 °C.', at: at(8), cost: 'danger' } as never
    const known = expected([], [charge, rest], 0, [slow, hot])
    expect(telling(known, 11 * 60000).map((a) => [a.cost, a.job])).toEqual([['danger', 6], ['cells', 5], ['cells', 3], ['time', 4]])
  })
})

describe('a load that has not said that it is off', () => {
  const load = { job_id: 8, pack_name: 'Shears', group: null, charge_id: null, kind: 'off_unconfirmed', says: 'The load is out of reach: pull its leads.', at: at(5), cost: 'danger' } as never

  it('rings by the pack alone, for as long as it is told, and no longer', () => {
    const known = expected([], [], 6 * 60000, [load])
    expect(known.map((a) => a.words)).toEqual(['Shears: The load is out of reach: pull its leads.'])
    const still = expected(known, [], 7 * 60000, [load])
    expect(still).toHaveLength(1)
    expect(expected(still, [], 8 * 60000, [])).toEqual([])
  })
})
