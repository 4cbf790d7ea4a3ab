import { describe, expect, it } from 'vitest'
import { type Draft, draftOf, emptyDraft, intakeOf, noAnswers, safetyOf } from '@/stages/take-in/draft'

const typed = (more: Partial<Draft> = {}): Draft => ({
  ...emptyDraft(), customer: ' Nora ', pack_name: 'Torque driver', chemistry: 'nmc', series: '5', parallel: '2', rated_ah: '4,0', load_a: '15', outside_taps: '0, 5', age_years: '2,5', ...more,
})

describe('an intake as it is typed', () => {
  it('is sent with both decimal marks, names without the spaces beside them, and nothing for what is left empty', () => {
    const sent = intakeOf(typed({ load_a: ' ', age_years: '' }))
    expect([sent.customer, sent.pack.rated_ah, sent.pack.load_a, sent.age_years]).toEqual(['Nora', 4, null, null])
    expect(sent.outside_taps).toEqual([0, 5])
  })

  it('comes back from what was sent as it was meant', () => {
    const sent = intakeOf(typed({ has: { has_board: false, has_balance_wires: null, has_sensor: true } }))
    expect(intakeOf(draftOf(sent))).toEqual(sent)
  })

  it.each(['five', '5X', '4..0', '1e'])('sends “%s” in a field for numbers as it stands, so that the answer names the field', (text) => {
    expect(intakeOf(typed({ series: text })).pack.series).toBe(text)
  })

  it('of an earlier window, without the newest fields, is sent with those untold', () => {
    const held = typed() as Partial<Draft>
    delete held.has
    delete held.outside_taps
    const sent = intakeOf(held as Draft)
    expect([sent.has_board, sent.outside_taps]).toEqual([null, []])
  })
})

describe('the safety screen', () => {
  it('is answered once every question is, whatever the answers', () => {
    const answers = noAnswers()
    for (const key of Object.keys(answers) as (keyof typeof answers)[]) {
      expect(safetyOf(answers)).toBeNull()
      answers[key] = key === 'hot'
    }
    expect(safetyOf(answers)).toEqual({ swollen: false, leaking: false, hot: true, wet: false, crushed: false, smell: false })
  })
})
