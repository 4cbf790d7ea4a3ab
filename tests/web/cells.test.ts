import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import { milliohms, scanned } from '@/cells/useCells'
import CellPlot from '@/figures/CellPlot.vue'
import PlanScales from '@/figures/PlanScales.vue'

const GRADES = ['first', 'second', 'light', 'not_for_packs', 'untested'].map((key) => ({ key, name: key }))
const cells = { names: ['a', 'b', 'c'], capacityAh: [2.0, 2.2, 2.4], ohm: [0.03, 0.025, 0.02], grade: [0, 3, 0], grades: GRADES, box: null }

function plot() {
  const found = mount(CellPlot, { props: cells })
  const svg = found.find('svg').element as SVGSVGElement
  svg.getBoundingClientRect = () => ({ left: 0, top: 0, width: 860, height: 286 }) as DOMRect
  svg.setPointerCapture = () => undefined
  const drag = async (...points: [number, number][]) => {
    const [from, ...rest] = points
    await found.find('svg').trigger('pointerdown', { clientX: from![0], clientY: from![1], pointerId: 1 })
    for (const [x, y] of rest) await found.find('svg').trigger('pointermove', { clientX: x, clientY: y })
    await found.find('svg').trigger('pointerup')
  }
  return { found, drag }
}

describe('the drawer as a figure', () => {
  it('draws one mark a cell, by the shape of its grade', () => {
    const { found } = plot()
    const strokes = (key: string) => (found.find(`path.of-${key}`).attributes('d')!.match(/M/g) ?? []).length
    expect(strokes('first')).toBe(2)
    // A cross is two strokes.
    expect(strokes('not_for_packs')).toBe(2)
    expect(found.find('path.of-second').attributes('d')).toBe('')
    expect(found.find('figcaption').text()).toContain('first 2')
  })

  it('picks by a box in the units of its axes, and a press beside every cell lets it go', async () => {
    const { found, drag } = plot()
    await drag([0, 0], [450, 150], [860, 286])
    const box = found.emitted('box')![0]![0] as { ah: [number, number]; ohm: [number, number] }
    expect(box.ah[0]).toBeLessThan(2.0)
    expect(box.ah[1]).toBeGreaterThan(2.4)
    expect(box.ohm[0]).toBeLessThan(0.02)
    expect(box.ohm[1]).toBeGreaterThan(0.03)
    await drag([300, 8], [301, 8])
    expect(found.emitted('box')![1]).toEqual([null])
    expect(found.emitted('choose')).toBeUndefined()
  })

  it('chooses the cell that is touched', async () => {
    const { found, drag } = plot()
    const [, x, y] = /M([\d.]+) ([\d.]+)V/.exec(found.find('path.of-first').attributes('d')!)!
    await drag([Number(x) + 3, Number(y) + 6], [Number(x) + 4, Number(y) + 6])
    expect(found.emitted('choose')![0]).toEqual(['a'])
  })
})

describe('a scan', () => {
  it('is a cell by the address on its label, or by its name', () => {
    expect(scanned(' K-041 ')).toBe('K-041')
    expect(scanned('https://bench.local:8750/cells/K%201%2F2')).toBe('K 1/2')
    expect(scanned('http://127.0.0.1/cells/N-3/')).toBe('N-3')
    expect([milliohms(0.0241), milliohms(null)]).toEqual(['24.1', '–'])
  })
})

describe('repairs on common scales', () => {
  const repair = (name: string, more: object) => ({
    repair: name, option: name, says: name, outlay: 40, cost: 60, years_low: 1, years_high: 4, usable_ah: 3, usable_in_two_years_ah: 2, wait_h: 12, chance: 0.8, cost_per_year: 20, ...more,
  })
  it('draws every row on the same scale, and what has no price has no bar and no place on the quote', () => {
    const repairs = [repair('level', {}), repair('recell', { outlay: 120, cost: 120, years_high: 8, usable_ah: 6 }), repair('copy', { outlay: null, cost: null, cost_per_year: null })]
    const found = mount(PlanScales, { props: { repairs, best: 'level', least: 'level', chosen: null, taken: null, ticked: ['level'], money: (value: number | null) => (value === null ? 'no price' : `${value} €`) } as never })
    const widths = found.findAll('.row:not(.head)').map((row) => row.find('.solid').attributes('style'))
    expect(widths[0]).toMatch(/width: 33\.3/)
    expect(widths[1]).toContain('width: 100%')
    expect(widths[2]).toMatch(/width: 0%/)
    // What failing adds stands beyond the outlay: 20 of 120.
    expect(found.find('.hatched').attributes('style')).toMatch(/width: 16\.6/)
    expect(found.findAll('input').map((box) => box.attributes('disabled') !== undefined)).toEqual([false, false, true])
    expect(found.text()).toContain('no price')
  })
})
