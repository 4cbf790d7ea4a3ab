import { mount } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import { ref } from 'vue'
import ChargeTroughs from '@/figures/ChargeTroughs.vue'
import StillOut from '@/figures/StillOut.vue'
import TimeRing from '@/figures/TimeRing.vue'
import CheckList from '@/stages/prove/CheckList.vue'
import RunTable from '@/stages/probe/RunTable.vue'

vi.mock('@vueuse/core', () => ({ useElementSize: () => ({ width: ref(540), height: ref(400) }) }))

function balance(socs: number[], capacity = 4) {
  return {
    groups: socs.map((soc, i) => ({ group: i + 1, soc, soc_low: soc - 0.02, soc_high: soc + 0.02, tells: true, capacity_ah: capacity, holds_ah: soc * capacity, to_full_ah: (1 - soc) * capacity })),
  }
}
const num = (el: { attributes: (name: string) => string | undefined }, name: string) => Number(el.attributes(name))

const from = (group: number) => ({ what: `Group ${group}` })

describe('charge troughs', () => {
  it('gives every group the same used part, since one current goes through all', () => {
    const f = mount(ChargeTroughs, { props: { from, balance: balance([0.9, 0.3, 0.85]) } as never })
    const used = f.findAll('svg rect.use').map((r) => num(r, 'width'))
    const added = f.findAll('svg rect.take').map((r) => num(r, 'width'))
    for (const widths of [used, added]) {
      expect(Math.max(...widths) - Math.min(...widths)).toBeLessThan(0.01)
      expect(widths[0]).toBeGreaterThan(0)
    }
    // The emptiest gives 0.3 of its charge, the fullest takes 0.1: three to one.
    expect(used[0]! / added[0]!).toBeCloseTo(3, 2)
  })

  it('strands nothing in the emptiest group and most in the fullest', () => {
    const f = mount(ChargeTroughs, { props: { from, balance: balance([0.9, 0.3]) } as never })
    const stranded = f.findAll('svg rect[fill="url(#stranded)"]').map((r) => num(r, 'width'))
    expect(stranded.at(-1)).toBeGreaterThan(100)
    expect(stranded[0]).toBeCloseTo(0, 5)
  })

  it('shows no charger and no figure for what must not be charged or cannot be told', () => {
    const barred = mount(ChargeTroughs, { props: { from, balance: balance([0.06, 0]), barred: [2] } as never })
    expect(barred.text()).toContain('not to be charged')
    expect(barred.find('.key').exists()).toBe(false)
    const flat = balance([0.5, 0.5])
    flat.groups[0]!.tells = false
    const f = mount(ChargeTroughs, { props: { from, balance: flat } as never })
    expect(f.text()).toContain('cannot tell from voltage')
    expect(f.text()).toContain('?')
  })
})

describe('the time ring', () => {
  it.each([
    [0.25, false],
    [1.4, true],
    [-1, false],
  ])('at %s is full: %s', (done, full) => {
    const over = mount(TimeRing, { props: { done } }).find('.over')
    expect(over.classes('full')).toBe(full)
    const drawn = Number(over.attributes('stroke-dasharray')!.split(' ')[0])
    expect(drawn / (2 * Math.PI * 9)).toBeCloseTo(Math.min(Math.max(done, 0), 1), 6)
  })
})

describe('the run table', () => {
  const reading = (id: number, tap: number, volts: number | null, supersedes: number | null = null) => ({ id, set_id: 1, at: '2026-03-02T08:00:00Z', point: { kind: 'tap', tap }, volts, supersedes, reason: '' })
  const assessed = {
    set: { id: 1 },
    reading_ids: [3, 4],
    verdict: { groups: [{ group: 1, volts: 4.1, off_plumb_v: 0, state: 'level' }, { group: 2, volts: 3.42, off_plumb_v: -0.68, state: 'low' }] },
    reconciled: { residuals_v: [0, 0.5], findings: [{ kind: 'wrong_reading', reading: 1, confidence: 0.9, because: '' }] },
  }

  it('puts the newest first, keeps what was superseded struck through, and marks what does not fit', () => {
    const readings = [reading(1, 1, 6.2), reading(2, 1, 4.5, 1), reading(3, 1, 4.1, 2), reading(4, 2, 7.52), { ...reading(9, 1, 3.3), set_id: 8 }]
    const t = mount(RunTable, { props: { assessed, readings, digits: 2 } as never })
    const rows = t.findAll('tbody tr')
    expect(rows).toHaveLength(2)
    expect(rows[0]!.text()).toContain('tap 2')
    expect(rows[0]!.classes('doubted')).toBe(true)
    expect(rows[0]!.text()).toContain('▼ −680 mV')
    expect(rows[1]!.findAll('s').map((s) => s.text())).toEqual(['6.20', '4.50'])
    expect(rows[1]!.text()).toContain('4.10')
  })

  it('says which point could not be reached', () => {
    const t = mount(RunTable, { props: { assessed, readings: [reading(5, 2, null)], digits: 2 } as never })
    expect(t.text()).toContain('cannot reach')
  })
})

describe('the list of checks', () => {
  it('tells each result by a shape and a word', () => {
    const check = (name: string, result: string) => ({ name, label: name, value: null, limit: null, doubt: null, unit: 'V', result, because: `because ${name}` })
    const proof = { result: 'fail', headline: 'It does not pass: spread', checks: [check('rest', 'pass'), check('spread', 'fail'), check('sum', 'not_yet')] }
    const list = mount(CheckList, { props: { proof } as never })
    expect(list.findAll('li .word').map((w) => w.text())).toEqual(['holds', 'fails', 'not yet'])
    const shapes = list.findAll('li svg').map((svg) => svg.html().replace(/data-v-\w+=""/g, ''))
    expect(new Set(shapes).size).toBe(3)
    expect(list.text()).toContain('because spread')
  })
})

describe('the share still out', () => {
  const points = [
    { days: 0, kept: 1, low: 1, high: 1 },
    { days: 40, kept: 0.75, low: 0.4, high: 0.95 },
    { days: 100, kept: 0.5, low: 0.2, high: 0.8 },
    { days: 400, kept: 0.5, low: 0.2, high: 0.8 },
  ]
  const f = mount(StillOut, { props: { points, until: 400, name: 'Levelled' } })

  it('steps down once for each return and runs on level to the last pack seen', () => {
    const rings = f.findAll('circle')
    expect(rings).toHaveLength(2)
    // The scale is even: a quarter of the way up lost by the first, another by the second.
    const [first, second] = rings.map((r) => num(r, 'cy'))
    const lines = f.findAll('line').map((l) => num(l, 'y1'))
    expect(first! - lines[0]!).toBeCloseTo((lines[2]! - lines[0]!) / 4, 5)
    expect(second! - first!).toBeCloseTo(first! - lines[0]!, 5)
    const xs = rings.map((r) => num(r, 'cx'))
    expect((xs[1]! - 44) / (xs[0]! - 44)).toBeCloseTo(100 / 40, 5)
  })

  it('says in words where it ends, with its band', () => {
    expect(f.find('svg').attributes('aria-label')).toBe('Levelled: after 400 days 50 % still out, between 20 and 80 %')
  })

  it('closes its band: as many steps down along the top as back up along the bottom', () => {
    const band = f.find('.band').attributes('d')!
    expect(band.endsWith('Z')).toBe(true)
    expect(band.includes('NaN')).toBe(false)
  })
})
