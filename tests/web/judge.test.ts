import { mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import catalogue from '../../src/saldatura/battery/data/judge/tests.csv?raw'
import { begins, errand, noteOrTry } from '@/bench/acts'
import CauseList from '@/stages/judge/CauseList.vue'
import { errandOf } from '@/stages/judge/errands'
import { chanceWords, percentOf } from '@/stages/judge/useJudgement'

const TESTS = catalogue.trim().split('\n').slice(1).map((line) => line.split(',')[0]!)
const push = vi.fn()
const go = (test: string) => errandOf({ test, says: `Do ${test}.` } as never, 7, { push } as never)

const cause = (name: string, probability: number, more: object = {}) => ({
  cause: name, at: { groups: [], taps: [] }, probability, present: probability, says: `It is ${name}`, for: [`for ${name}`], against: [], missing: [], ...more,
})
const causes = [cause('imbalance', 0.61), cause('weak_group', 0.2, { against: ['it holds'], present: 0.5 }), cause('worn', 0.08), cause('main_lead', 0.05), cause('board_fuse', 0.01)]
const listed = (of = causes) => mount(CauseList, { props: { causes: of, from: { what: 'x', set: null, groups: 'all' } } as never, global: { directives: { from: {} } } })

describe('where a test is done', () => {
  beforeEach(() => {
    push.mockReset()
    noteOrTry.value = null
    errand.value = null
  })

  it('leads every test that there is to a form or to a place', () => {
    for (const test of TESTS) {
      noteOrTry.value = null
      push.mockReset()
      go(test)
      expect(Number(noteOrTry.value !== null) + push.mock.calls.length, test).toBe(1)
    }
    expect(TESTS.length).toBeGreaterThan(25)
  })

  it('opens the form at the chips it is about, or with the try chosen', () => {
    go('moving_blink')
    expect([noteOrTry.value, begins.value.about, begins.value.says]).toEqual(['note', 'moving', 'Do moving_blink.'])
    go('swap_board')
    expect([noteOrTry.value, begins.value.kind, begins.value.what]).toEqual(['try', 'swap', 'board'])
  })

  it('says at the place what it is for, and of which job', () => {
    go('path_v')
    expect(push).toHaveBeenCalledWith({ path: '/jobs/7/measures', query: { of: 'path' } })
    expect(errand.value).toEqual({ job: 7, says: 'Do path_v.' })
    go('cell_direct_v')
    expect(push).toHaveBeenLastCalledWith('/jobs/7/probe')
  })
})

describe('causes by chance', () => {
  it('shows the likeliest four, and of the first what speaks for it', async () => {
    const list = listed()
    expect(list.findAll('.causes .says').map((s) => s.text())).toEqual(['It is imbalance', 'It is weak_group', 'It is worn', 'It is main_lead'])
    expect(list.get('.for').text()).toContain('for imbalance')
    expect(list.get('.against').text()).toContain('Nothing so far')
    await list.get('.more').trigger('click')
    expect(list.findAll('.causes li')).toHaveLength(5)
  })

  it('keeps the cause that was picked while belief moves, for as long as it is among them', async () => {
    const list = listed()
    await list.findAll('.causes button')[1]!.trigger('click')
    expect(list.get('.against').text()).toContain('it holds')
    // There beside another cause, though not likely the chief one.
    expect(list.findAll('.words')[1]!.text()).toContain('50 %')
    await list.setProps({ causes: [cause('worn', 0.7), cause('weak_group', 0.2)] } as never)
    expect(list.get('.for').text()).toContain('for weak_group')
    await list.setProps({ causes: [cause('worn', 0.9)] } as never)
    expect(list.get('.for').text()).toContain('for worn')
  })

  it('never says all or nothing while there is a doubt', () => {
    expect([percentOf(0.9999), percentOf(0.0001), percentOf(0.5)]).toEqual(['99 %', '1 %', '50 %'])
    expect([0.98, 0.9, 0.7, 0.4, 0.2, 0.01].map(chanceWords)).toEqual(['as good as certain', 'very likely', 'likely', 'as likely as not', 'possible', 'hardly'])
  })
})
