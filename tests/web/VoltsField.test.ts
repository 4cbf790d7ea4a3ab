import { mount } from '@vue/test-utils'
import { afterEach, describe, expect, it } from 'vitest'
import { nextTick } from 'vue'
import { askUndo, noteOrTry, workAt } from '@/bench/acts'
import VoltsField from '@/bench/VoltsField.vue'

const shown = (props: object = {}) => {
  const wrapper = mount(VoltsField, {
    attachTo: document.body,
    props: { label: 'group 2, volts', modelValue: '', commands: ['x', 's'], pedal: 'PageDown', 'onUpdate:modelValue': (text: string) => wrapper.setProps({ modelValue: text }), ...props },
  })
  return wrapper
}
const press = async (field: ReturnType<typeof shown>, key: string, more: object = {}) => {
  const event = new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true, ...more })
  field.element.dispatchEvent(event)
  await nextTick()
  return event.defaultPrevented
}

describe('the one field for volts', () => {
  afterEach(() => {
    document.body.innerHTML = ''
    workAt.value = noteOrTry.value = null
  })

  it('takes letters for commands beside an empty field only', async () => {
    const field = shown()
    await press(field, 'x')
    expect(field.emitted('command')).toEqual([['x']])
    await field.setValue('12.33')
    for (const key of ['x', 's', 'u', 'w', 'n', 'Backspace']) expect(await press(field, key)).toBe(false)
    expect(field.emitted('command')).toHaveLength(1)
    expect(field.emitted('back')).toBeUndefined()
    expect([workAt.value, noteOrTry.value]).toEqual([null, null])
  })

  it('leads from an empty field to the last act, the note and what was mended', async () => {
    const field = shown()
    const before = askUndo.value
    await press(field, 'u')
    await press(field, 'n')
    await press(field, 'w')
    expect([askUndo.value - before, noteOrTry.value, workAt.value]).toEqual([1, 'note', { place: null }])
  })

  it('is emptied by Escape, and then leaves Escape to what lies behind it', async () => {
    const field = shown({ modelValue: '4.1' })
    expect(await press(field, 'Escape')).toBe(true)
    expect(field.props('modelValue')).toBe('')
    expect(await press(field, 'Escape')).toBe(false)
  })

  it('accepts by Enter and the pedal, not by one held down, and leaves Alt and Control alone', async () => {
    const field = shown({ modelValue: '4.1' })
    await press(field, 'Enter')
    await press(field, 'PageDown')
    await press(field, 'Enter', { repeat: true })
    await press(field, 'Enter', { altKey: true })
    await press(field, 'PageDown', { ctrlKey: true })
    expect(field.emitted('accept')).toHaveLength(2)
  })

  it('lets what was refused be typed over, also where it is put back a moment later', async () => {
    const field = shown()
    await field.setProps({ said: '“4,1x” is not a number' })
    await field.setProps({ modelValue: '4,1x' })
    await nextTick()
    await nextTick()
    const input = field.element as HTMLInputElement
    expect([input.selectionStart, input.selectionEnd]).toEqual([0, 4])
  })
})
