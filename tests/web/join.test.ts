import { mount } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import { ref } from 'vue'
import BlockMap from '@/figures/BlockMap.vue'
import { useMapDraft } from '@/stages/join/useMapDraft'

const cells = [
  { cell: 'c1', group: 1, x_mm: 0, y_mm: 0, top: 'positive' },
  { cell: 'c2', group: 2, x_mm: 20, y_mm: 0, top: 'negative' },
  { cell: 'c3', group: 2, x_mm: 50, y_mm: 5, top: 'negative' },
] as never

describe('the block as it lies on the bench', () => {
  const links = [{ link: 'L1', side: 'top', tap: 1, cells: ['c1', 'c2'], reach_mm: 20 }]
  const segments = [
    { segment: 'L1 c1 to c2', current_a: 10, over_cell_k: 30, heat_w: 1, a_per_mm2: 8, peak_rise_k: null },
    { segment: 'L1 c2 to c3', current_a: 5, over_cell_k: 4, heat_w: 1, a_per_mm2: 4, peak_rise_k: null },
  ]
  const drawn = (side: 'top' | 'bottom') => mount(BlockMap, { props: { cells, links, side, diameter: 18, segments } as never })

  it('draws only the strips of the side that is up, as thick as their current and hatched where they warm too much', () => {
    const strips = drawn('top').findAll('.strip')
    expect(strips.map((s) => Number(s.attributes('stroke-width')))).toEqual([6.7, 3.95])
    expect(strips.map((s) => s.classes('warm'))).toEqual([true, false])
    expect(drawn('bottom').findAll('.strip')).toHaveLength(0)
  })

  it('keeps its mark on one real corner: at the left from above, at the right from below', () => {
    const x = (side: 'top' | 'bottom') => Number(/M([-\d.]+)/.exec(drawn(side).find('.corner').attributes('d')!)![1])
    expect(x('top')).toBeLessThan(0)
    expect(x('bottom')).toBeGreaterThan(50)
  })
})

describe('a step of the work list', () => {
  it('marks its cells, shows where sensors sit between theirs, and writes the rise of the warmest strips as a figure', () => {
    const sensors = [{ sensor: 'thermistor', between: ['c1', 'c2'], from_old: true }]
    const segments = [{ segment: 'L1 c1 to c2', current_a: 10, over_cell_k: 30, heat_w: 1, a_per_mm2: 8, peak_rise_k: null }]
    const links = [{ link: 'L1', side: 'top', tap: 1, cells: ['c1', 'c2'], reach_mm: 20 }]
    const map = mount(BlockMap, { props: { cells, links, side: 'top', diameter: 18, segments, sensors, marked: ['c2'], shares: {}, still: true } as never })
    expect(map.findAll('.cell').map((c) => c.classes('marked'))).toEqual([false, true, false])
    expect(map.find('.sensor path').attributes('d')).toContain('M10 -2.6')
    expect(map.find('.kelvin').text()).toBe('30 K')
    expect(map.findAll('[role=button]')).toHaveLength(0)
  })
})

describe('a map placed by hand', () => {
  const block = ref({ map: { cells }, entered: { arrangement: 'grid' } }) as never
  const draft = (keep = vi.fn()) => useMapDraft(block, keep as never)

  it('looked at from below shows the mirror image with the other poles, and back again is the same', () => {
    const map = draft()
    map.begin()
    const before = JSON.stringify(map.draft.value)
    map.lookFrom('bottom')
    expect(map.draft.value!.map((c) => [c.x_mm, c.top])).toEqual([[50, 'negative'], [30, 'positive'], [0, 'positive']])
    map.lookFrom('top')
    expect(JSON.stringify(map.draft.value)).toBe(before)
  })

  it('changes the chosen cell alone, and no group beyond the string', () => {
    const map = draft()
    map.begin()
    map.at.value = 'c2'
    map.move(1, -2)
    map.turn()
    map.regroup(5, 2)
    expect(map.draft.value![1]).toEqual({ cell: 'c2', group: 2, x_mm: 21, y_mm: -2, top: 'positive' })
    expect(map.draft.value![0]).toEqual((cells as never as object[])[0])
    map.put('x_mm', '12,5', 2)
    map.put('y_mm', 'nowhere', 2)
    map.put('group', '9', 2)
    expect(map.draft.value![1]).toMatchObject({ x_mm: 12.5, y_mm: -2, group: 2 })
    map.leave()
    expect(map.draft.value).toBeNull()
  })

  it('keeps the places alone of what is told of the block, and what is moved meanwhile is still there', async () => {
    let answer = (_: unknown) => {}
    const keep = vi.fn(() => new Promise((done) => (answer = done)))
    const map = draft(keep)
    map.begin()
    const placed = map.draft.value
    const under = map.keep()
    map.at.value = 'c2'
    map.move(1, 0)
    expect(keep).toHaveBeenCalledWith({ cells: placed, looked_from: 'top', around: [], layers: 1 })
    answer({})
    await under
    expect(map.draft.value![1]).toMatchObject({ cell: 'c2', x_mm: 21 })
    const again = map.keep()
    answer({})
    await again
    expect(map.draft.value).toBeNull()
  })

  it('refused, it is still there', async () => {
    const map = draft(vi.fn(async () => null))
    map.begin()
    await map.keep()
    expect(map.draft.value).toHaveLength(3)
  })
})
