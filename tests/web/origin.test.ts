import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import { defineComponent, nextTick, ref } from 'vue'
import { type From, origin, told, vFrom } from '@/composables/origin'

const fact = (id: number, point: object, volts: number | null, more: object = {}) => ({ id, set_id: 1, at: `2026-03-02T08:0${id}:00Z`, point, volts, supersedes: null, reason: '', source: 'typed', ...more }) as never
const facts = [
  fact(1, { kind: 'tap', tap: 1 }, 3.9),
  fact(2, { kind: 'tap', tap: 2 }, 7.1),
  fact(3, { kind: 'tap', tap: 2 }, 7.8, { supersedes: 2, source: 'stand-in multimeter' }),
  fact(4, { kind: 'pack' }, 11.7),
]
const set = { reading_ids: [1, 3, 4], reconciled: { groups: [{ from_readings: [0] }, { from_readings: [0, 1] }, { from_readings: [] }] } } as never

describe('where a number comes from', () => {
  it('names the readings behind a group, and with what they were taken', () => {
    const said = told({ what: 'Group 2', set, groups: [2] }, facts, 2)
    expect(said).toContain('Group 2: from tap 1 3.90, tap 2 7.80 V')
    expect(said).toContain('typed and stand-in multimeter')
    expect(told({ what: 'Sum', set, groups: 'all' }, facts, 1)).toContain('tap 1 3.9, tap 2 7.8, terminals 11.7 V')
    expect(told({ what: 'Group 3', set, groups: [3] }, facts, 2)).toContain('no reading settles it yet')
  })

  it('is told while the number has the focus, follows it, and falls silent', async () => {
    const value = ref<From>({ what: 'A' })
    const page = mount(defineComponent({ directives: { from: vFrom }, setup: () => ({ value }), template: '<b v-from="value">4.1</b>' }), { attachTo: document.body })
    expect(page.get('b').attributes('tabindex')).toBe('0')
    page.get('b').element.focus()
    expect(origin.value?.what).toBe('A')
    value.value = { what: 'B' }
    await nextTick()
    expect(origin.value?.what).toBe('B')
    page.get('b').element.blur()
    expect(origin.value).toBeNull()
  })
})
