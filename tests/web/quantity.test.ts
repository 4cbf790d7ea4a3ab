import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import { nextTick } from 'vue'
import { parseVolts, stepOf } from '@/composables/parseVolts'
import NumberField from '@/forms/NumberField.vue'
import { splitLine, quantity, sent, sentLine, sentMilliohms, type Unit, wrongWith } from '@/forms/quantity'
import { emptyDraft, labelOf, packOf } from '@/stages/take-in/draft'

describe('quantities as people type them', () => {
  it.each<[string, Unit | undefined, number]>([
    ['3,9 V', 'V', 3.9], ['3900mV', 'V', 3.9], ['3900 mV', 'V', 3.9], ['-0,3 v', 'V', -0.3], ['1,5 A', 'A', 1.5], ['1500 mA', 'A', 1.5], ['80 W', 'W', 80], ['6 A', 'A', 6],
    ['4000 mAh', 'Ah', 4], ['4 Ah', 'Ah', 4], ['25 min', 'min', 25], ['1h20', 'min', 80], ['1 h 20 min', 'min', 80], ['1:20', 'min', 80], ['1,5 h', 'min', 90], ['1h20', 'h', 1 + 1 / 3], ['90 min', 'h', 1.5],
    ['45 €', 'money', 45], ['€45,50', 'money', 45.5], ['45 EUR', 'money', 45], ['$ 12', 'money', 12], ['40 €/h', 'money', 40], ['3-4 years', 'years', 3.5], ['18 months', 'years', 1.5], ['3', 'years', 3],
    ['10 kΩ', 'Ω', 10000], ['47 mΩ', 'Ω', 0.047], ['10k', 'Ω', 10000], ['0,012 Ω', 'mΩ', 12], ['1,8 cm', 'mm', 18], ['2 kg', 'N', 19.6133], ['80 %', '%', 80], ['.5', undefined, 0.5],
  ])('reads “%s” as %s', (text, unit, value) => expect(quantity(text, unit)).toBeCloseTo(value, 9))

  it.each<[string, Unit | undefined]>([['1,5 V', 'A'], ['many', 'A'], ['4.1.1', 'V'], ['1h75', 'min'], ['3 4', 'V'], ['1e3', 'V'], ['5 A', undefined], ['', 'V']])('refuses “%s” for %s', (text, unit) => expect(quantity(text, unit)).toBeNull())

  it('sends what is no number as it was typed, and never as nothing', () => {
    expect(sent(' ', 'A')).toBeNull()
    expect(sent('two amps', 'A')).toBe('two amps')
    expect(sentMilliohms('14,2 mΩ')).toBe(0.0142)
    expect(sentMilliohms('x')).toBe('x')
    expect(sentLine('3,02 3.21 V; 3190 mV', 'V')).toEqual([3.02, 3.21, 3.19])
  })

  it('says what to type where it cannot be read, and refuses a price that no shop asks', () => {
    expect(wrongWith('a while', 'min')).toBe('type a number such as 25 (25 min and 1 h 20 are understood)')
    expect(wrongWith('2.5', undefined, true)).toBe('type a whole number')
    expect(wrongWith('-45', 'money')).toContain('zero or more')
    expect(wrongWith('1000000000000', 'money')).toContain('below a million')
    expect(wrongWith('', 'money')).toBeNull()
  })

  it('takes volts that are said with their unit as they stand', () => {
    const cell = { low: 3, high: 4.2 }
    expect(parseVolts('3900 mV', cell, cell)).toBe(3.9)
    expect(parseVolts('3,9 V', cell, cell)).toBe(3.9)
    expect(stepOf('3900mV', 3.9)).toBe(0.001)
    expect(splitLine('3,9 V 4,1 V')).toEqual(['3,9V', '4,1V'])
  })
})

describe('what a label says', () => {
  it.each([
    ['18 V 4 Ah', 3.6, { series: '5', rated_ah: '4' }],
    ['5S2P 4000 mAh', null, { series: '5', parallel: '2', rated_ah: '4' }],
    ['36V', 3.6, { series: '10' }],
    ['18 V', null, {}],
  ])('is read from “%s”', (text, nominal, found) => expect(labelOf(text, nominal)).toEqual(found))

  it('5S2P in the series field is five in series and two in parallel', () => {
    const pack = packOf({ ...emptyDraft(), chemistry: 'nmc', series: '5S2P', rated_ah: '4000 mAh', load_a: '6 A' })
    expect([pack.series, pack.parallel, pack.rated_ah, pack.load_a]).toEqual([5, 2, 4, 6])
  })
})

// As the library's own: a box over an input, which passes on what is typed in it.
const FIELD = { props: ['modelValue'], emits: ['update:modelValue'], template: '<input :value="modelValue" @input="$emit(`update:modelValue`, $event.target.value)" />' }

describe('a field of a number', () => {
  it('keeps every text as typed and says what is wrong when it is left', async () => {
    const field = mount(NumberField, { props: { modelValue: '', label: 'Load', unit: 'A' as const, 'onUpdate:modelValue': (text: string | undefined) => field.setProps({ modelValue: text }) }, global: { components: { ElInput: FIELD } } })
    const input = field.get('input')
    await input.setValue('six')
    expect(field.find('[role=alert]').exists()).toBe(false)
    await input.trigger('blur')
    expect(field.get('[role=alert]').text()).toBe('Load, A: type a number such as 1.5 (1,5 A and 1500 mA are understood)')
    expect((input.element as HTMLInputElement).value).toBe('six')
    await input.trigger('focus')
    await input.setValue('6 A')
    await input.trigger('blur')
    await nextTick()
    expect(field.find('[role=alert]').exists()).toBe(false)
  })
})
