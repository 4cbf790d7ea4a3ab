import { describe, expect, it } from 'vitest'
import { hidden, rowsOf } from '@/figures/dayRows'
import { minutesOf, shortly, whenOf } from '@/today/when'

const NOW = new Date(2026, 2, 2, 10, 30)
const then = (text: string) => {
  const at = whenOf(text, NOW)
  return at && `${at.getDate()} ${at.getHours()}:${String(at.getMinutes()).padStart(2, '0')}`
}

describe('until when', () => {
  it.each([
    ['14', '2 14:00'], ['14:20', '2 14:20'], ['14.20', '2 14:20'], ['1420', '2 14:20'], ['till 14:00', '2 14:00'], ['2 pm', '2 14:00'], ['12 am', '3 0:00'],
    ['9', '3 9:00'], ['10:30', '3 10:30'], ['24', '3 0:00'], ['40 min', '2 11:10'], ['2 h', '2 12:30'], ['1,5 h', '2 12:00'], ['1 h 20 min', '2 11:50'], ['in 5 min', '2 10:35'], ['1 h 20', '2 11:50'],
  ])('“%s” is %s', (text, at) => expect(then(text)).toBe(at))

  it.each(['', 'soon', '25', '14:75', '13 pm', '0 min', '-2 h', '1e9 h', '14:00:00', '99999 h'])('“%s” is none', (text) => expect(then(text)).toBeNull())

  it('takes hours of a day as minutes', () => {
    expect(['8', '8:30', '1230', '24', '24:01', 'x', '8:60'].map(minutesOf)).toEqual([480, 510, 750, 1440, null, null, null])
  })

  it('is told as short as it can be', () => {
    const iso = (d: number, h: number) => new Date(2026, 2, d, h).toISOString()
    expect(shortly(iso(2, 14), NOW.getTime())).toMatch(/^0?2:00|^14:00/)
    expect(shortly(iso(3, 8), NOW.getTime())).toMatch(/^tomorrow /)
    expect(shortly(iso(5, 8), NOW.getTime())).toMatch(/^Thu /)
    expect(shortly(iso(20, 8), NOW.getTime())).toMatch(/20/)
  })
})

describe('rows of the day', () => {
  const bar = (job_id: number, from: number, to: number, channel: string | null = null, high = to) =>
    ({ job_id, pack_name: `P${job_id}`, says: '', from_at: new Date(from).toISOString(), to_at: new Date(to).toISOString(), high: new Date(high).toISOString(), channel, begun: false, run: null }) as never
  const shape = (rows: ReturnType<typeof rowsOf>) => rows.map((r) => [r.name, r.bars.map((b) => b.job_id)])

  it('are hands, then channels by name, then what needs none, side by side where it overlaps', () => {
    const rows = rowsOf([bar(1, 0, 10), bar(2, 10, 20)], [bar(3, 0, 50, 'small'), bar(4, 50, 90, 'small'), bar(5, 5, 50, 'grey'), bar(6, 0, 40), bar(7, 20, 60), bar(8, 40, 60)], 0, 100)
    expect(shape(rows)).toEqual([['hands', [1, 2]], ['grey', [5]], ['small', [3, 4]], ['by itself', [6, 8]], ['', [7]]])
  })

  it('leave out what is past or to come, and count what they do not draw', () => {
    expect(shape(rowsOf([], [bar(1, -50, -10, 'c'), bar(2, 200, 300, 'c'), bar(3, -50, -10, 'c', 20)], 0, 100))).toEqual([['hands', []], ['c', [3]]])
    const many = Array.from({ length: 7 }, (_, k) => bar(k, 0, 50))
    expect(hidden(many, rowsOf([], many, 0, 100), 0, 100)).toBe(3)
  })
})
