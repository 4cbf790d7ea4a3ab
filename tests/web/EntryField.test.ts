import { mount } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import { nextTick, ref } from 'vue'
import EntryField from '@/stages/probe/EntryField.vue'

vi.mock('@/composables/useSettings', () => ({ useSettings: () => ref({ pedal: 'F9', technician: '', tone: false, speech: false }) }))

const point = { point: { kind: 'tap', tap: 3 }, words: 'tap 3 against tap 0', expected_low_v: 12.2, expected_high_v: 12.6, plausible_low_v: 0, plausible_high_v: 13 }
function field(over: object = {}) {
  const text = ref('')
  const page = mount(EntryField, {
    attachTo: document.body,
    props: { point, preview: null, digits: 2, expectation: '', questioned: null, error: null, meters: 0, place: 'pin', tabs: true, live: null, modelValue: text.value, 'onUpdate:modelValue': (now: string) => page.setProps({ modelValue: now }), ...over } as never,
  })
  return { page, input: page.get('input') }
}

describe('the keys of the entry field', () => {
  it('takes letters as commands beside an empty field alone', async () => {
    const { page, input } = field()
    for (const key of ['x', 's', 'r', 'p', 't', 'd', 'l']) await input.trigger('keydown', { key })
    expect(Object.keys(page.emitted()).filter((name) => ['unreachable', 'skip', 'again', 'scheme', 'place', 'draw', 'live'].includes(name))).toHaveLength(7)
    const { page: typed, input: full } = field({ modelValue: '12.33' })
    for (const key of ['x', 's', 'r', 'p', 't', 'd', 'l']) await full.trigger('keydown', { key })
    expect(Object.keys(typed.emitted()).filter((name) => ['unreachable', 'skip', 'again', 'scheme', 'place', 'draw', 'live'].includes(name))).toEqual([])
  })

  it('steps back from an empty field, and clears a full one with Escape', async () => {
    const { page, input } = field()
    await input.trigger('keydown', { key: 'Backspace' })
    expect(page.emitted('back')).toHaveLength(1)
    await input.setValue('4.1x')
    await input.trigger('keydown', { key: 'Backspace' })
    expect(page.emitted('back')).toHaveLength(1)
    await input.trigger('keydown', { key: 'Escape' })
    expect(input.element.value).toBe('')
  })

  it('accepts with Enter and the pedal, and selects what was refused so that typing replaces it', async () => {
    const { page, input } = field({ modelValue: '12,3x' })
    await input.trigger('keydown', { key: 'Enter' })
    await input.trigger('keydown', { key: 'F9' })
    expect(page.emitted('accept')).toHaveLength(2)
    const select = vi.spyOn(input.element, 'select')
    await page.setProps({ error: 'is not a number' } as never)
    await nextTick()
    expect(select).toHaveBeenCalled()
  })
})
