import { mount } from '@vue/test-utils'
import { afterEach, describe, expect, it } from 'vitest'
import { defineComponent, h, nextTick, ref } from 'vue'
import { Refusal } from '@/api/client'
import FieldRow from '@/bench/FieldRow.vue'
import { useAct } from '@/composables/useAct'

const later = async () => {
  await nextTick()
  await new Promise((done) => setTimeout(done))
}
// There is no layout here: whatever is in the document is to be seen.
Object.defineProperty(HTMLElement.prototype, 'offsetParent', { configurable: true, get() { return (this as HTMLElement).isConnected ? document.body : null } })

describe('an act and where the hand is after it', () => {
  afterEach(() => void (document.body.innerHTML = ''))

  it('is done once, however often its key bounces', async () => {
    const { act, busy } = useAct()
    let done = 0
    let finish = (_: unknown) => {}
    const call = () => new Promise((resolve) => { done++; finish = resolve })
    const first = act(call)
    expect(await act(call)).toBeNull()
    expect([done, busy.value]).toEqual([1, true])
    finish('kept')
    expect([await first, busy.value]).toEqual(['kept', false])
  })

  it('goes to the field that was refused', async () => {
    const { act } = useAct()
    const error = ref('')
    mount(defineComponent(() => () => h('main', [h(FieldRow, { label: 'By', error: error.value }, { default: ({ id }: { id: string }) => h('input', { id }) })])), { attachTo: document.body })
    await act(() => {
      error.value = 'must not be empty'
      return Promise.reject(new Refusal([{ field: 'by', message: 'must not be empty' }], 422))
    })
    await later()
    expect(document.activeElement?.tagName).toBe('INPUT')
  })

  it('goes back to what was pressed, or to the next thing to do where that is gone', async () => {
    document.body.innerHTML = '<div id="app"><main><h1>Level</h1><button id="start">Start</button></main></div>'
    const button = document.querySelector<HTMLButtonElement>('#start')!
    const { act } = useAct()
    button.focus()
    await act(async () => button.blur())
    await later()
    expect(document.activeElement).toBe(button)
    await act(async () => (document.querySelector('main')!.innerHTML = '<h1>Group 2 is on the charger</h1><input data-next />'))
    await later()
    expect(document.activeElement?.matches('[data-next]')).toBe(true)
    await act(async () => (document.querySelector('main')!.innerHTML = '<h1>Every group is at its target</h1>'))
    await later()
    expect(document.activeElement?.textContent).toBe('Every group is at its target')
  })

  it('takes what was said of a value for old once the value is typed over', async () => {
    const row = mount(FieldRow, { props: { label: 'By', error: 'must not be empty' }, slots: { default: '<input />' }, attachTo: document.body })
    expect(row.text()).toContain('By: must not be empty')
    await row.find('input').trigger('input')
    expect(row.text()).toBe('By')
    await row.setProps({ error: 'is too long' })
    expect(row.text()).toContain('By: is too long')
  })
})
