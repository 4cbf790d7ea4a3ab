import { flushPromises, mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { computed, defineComponent, h, ref } from 'vue'
import HookUp from '@/bench/instruments/HookUp.vue'
import EndCharge from '@/stages/level/EndCharge.vue'
import UnderLoad from '@/stages/measures/UnderLoad.vue'

type Sent = { path: string; body: Record<string, unknown> }
const posted: Sent[] = []
const refuse = ref<{ field: string; message: string } | null>(null)
const load = ref<object | null>(null)

vi.mock('@/api/client', async (original) => ({
  ...(await original<object>()),
  client: {
    POST: (path: string, { body }: { body: Record<string, unknown> }) => {
      posted.push({ path, body })
      if (refuse.value) return Promise.resolve({ error: { errors: [refuse.value] }, response: { status: 422 } })
      return Promise.resolve({ data: { ok: true }, response: { status: 201 } })
    },
  },
}))
vi.mock('@/api/queries', async (original) => ({
  ...(await original<object>()),
  useTermsQuery: () => ({
    data: ref({
      instrument_kinds: [
        { key: 'meter', name: 'multimeter', fields: [] },
        { key: 'cell_charger', name: 'single-cell charger', fields: ['group', 'volts', 'amps', 'cutoff_a'] },
        { key: 'load', name: 'electronic load', fields: ['amps'] },
      ],
    }),
  }),
}))
vi.mock('@/composables/useJob', () => ({ useJob: () => computed(() => ({ facts: { id: 7 }, assessment: { load: load.value } })) }))
vi.mock('@/stages/probe/ProbeRun.vue', () => ({ default: defineComponent({ setup: (_, { slots }) => () => h('div', { class: 'run' }, slots.line?.({ scheme: 'taps' })) }) }))

// The controls as plain ones: what is typed into them is what counts here.
const ElInput = defineComponent({
  props: ['modelValue', 'id'],
  emits: ['update:modelValue'],
  setup: (props, { emit }) => () => h('input', { id: props.id, value: props.modelValue, onInput: (e: Event) => emit('update:modelValue', (e.target as HTMLInputElement).value) }),
})
const ElButton = defineComponent({ props: ['nativeType', 'disabled'], setup: (props, { slots }) => () => h('button', { type: props.nativeType ?? 'button', disabled: props.disabled }, slots.default?.()) })
const ElRadioGroup = defineComponent({ emits: ['update:modelValue'], setup: (_, { slots, emit }) => () => h('div', { onClick: (e: Event) => emit('update:modelValue', (e.target as HTMLElement).dataset.value) }, slots.default?.()) })
const ElRadioButton = defineComponent({ props: ['value'], setup: (props, { slots }) => () => h('span', { 'data-value': props.value }, slots.default?.()) })
const global = { components: { ElInput, ElButton, ElRadioGroup, ElRadioButton } }

beforeEach(() => {
  posted.length = 0
  refuse.value = null
  load.value = null
})

const source = { on: false, volts: 4.2, amps: 2, group: 1, cutoff_a: 0.1 }
const virtual = (over: object = {}) => ({ hooked: null, sources: { cell_charger: source, load: { ...source, amps: 5 } }, ...over }) as never

describe('what drives a virtual pack', () => {
  it('offers the kinds that drive, with the fields each has, filled with what is set', async () => {
    const page = mount(HookUp, { props: { jobId: 7, virtual: virtual() }, global })
    await flushPromises()
    expect(page.findAll('[data-value]').map((k) => k.text())).toEqual(['Single-cell charger', 'Electronic load'])
    expect(page.findAll('input').map((i) => i.element.value)).toEqual(['1', '4.2', '2', '0.1'])
    await page.get('[data-value=load]').trigger('click')
    expect(page.findAll('input').map((i) => i.element.value)).toEqual(['5'])
  })

  it('sends numbers as typed with a comma, and what is none as it stands, so that the field is named', async () => {
    const page = mount(HookUp, { props: { jobId: 7, virtual: virtual() }, global })
    await flushPromises()
    await page.findAll('input')[1]!.setValue('4,15')
    await page.findAll('input')[2]!.setValue('lots')
    refuse.value = { field: 'source.amps', message: 'amps must be a number' }
    await page.get('form').trigger('submit')
    await flushPromises()
    expect(posted[0]).toMatchObject({ path: '/api/jobs/{job_id}/virtual/source', body: { kind: 'cell_charger', source: { on: true, volts: 4.15, amps: 'lots', group: 1 } } })
    expect(page.text()).toContain('amps must be a number')
  })

  it('says a refusal of no field, and lets only what runs be switched off', async () => {
    refuse.value = { field: 'floor', message: 'group 1 is not charged' }
    const page = mount(HookUp, { props: { jobId: 7, virtual: virtual() }, global })
    await page.get('form').trigger('submit')
    await flushPromises()
    expect(page.get('[role=alert]').text()).toBe('group 1 is not charged')
    const off = (p: typeof page) => p.findAll('button').find((b) => b.text() === 'Switch it off')!
    expect(off(page).attributes('disabled')).toBeDefined()
    const running = mount(HookUp, { props: { jobId: 7, virtual: virtual({ hooked: 'load', sources: { cell_charger: source, load: { ...source, on: true, doing: 'held' } } }) }, global })
    await flushPromises()
    expect(running.text()).toContain('Electronic load is on.')
    refuse.value = null
    await off(running).trigger('click')
    expect(posted.at(-1)!.body).toMatchObject({ kind: 'load', source: { on: false } })
  })
})

describe('a set under load', () => {
  it('is begun with its current, decimal comma or not', async () => {
    const page = mount(UnderLoad, { global })
    await page.get('input').setValue('12,5')
    await page.get('[data-value=charging]').trigger('click')
    await page.get('form').trigger('submit')
    expect(posted).toEqual([{ path: '/api/jobs/{job_id}/sets', body: { purpose: 'load', condition: 'charging', current_a: 12.5, last_current_a: 0 } }])
  })

  it('names a current that is none and keeps it in the field', async () => {
    refuse.value = { field: 'current_a', message: 'current_a must be a number' }
    const page = mount(UnderLoad, { global })
    await page.get('input').setValue('some')
    await page.get('form').trigger('submit')
    await flushPromises()
    expect(page.text()).toContain('current_a must be a number')
    expect(page.get('input').element.value).toBe('some')
  })

  it('runs while a group of it is open, and offers the next one after', () => {
    const set = { id: 4, condition: 'load', current_a: 5 }
    load.value = { set, reconciled: { groups: [{ determined: true }, { determined: false }] } }
    expect(mount(UnderLoad, { global }).get('.run').text()).toContain('under load at 5 A')
    load.value = { set, reconciled: { groups: [{ determined: true }, { determined: true }] } }
    expect(mount(UnderLoad, { global }).find('.run').exists()).toBe(false)
  })
})

describe('the end of a charge', () => {
  const run = { id: 9, group: 2, expected_low_v: 4.1, expected_high_v: 4.21, plausible_low_v: -0.5, plausible_high_v: 4.5 }
  const end = () => mount(EndCharge, { props: { run: run as never, shows: 4.187, counted: 1.9342, over: true }, global })
  const sent = () => posted.map((p) => p.body)

  it('leaves the count to the program that counted, and takes what the idle output reads where nothing is typed', async () => {
    const page = end()
    expect(page.findAll('input').map((i) => i.element.value)).toEqual(['', '1.93'])
    await page.get('form').trigger('submit')
    await flushPromises()
    expect(sent()).toEqual([{ outcome: 'finished', volts: 4.187, counted_ah: null }])
  })

  it('sends what a hand typed over it, and names a count that is none', async () => {
    const page = end()
    await page.findAll('input')[0]!.setValue('4,19')
    await page.findAll('input')[1]!.setValue('2,1x')
    await page.get('form').trigger('submit')
    expect(sent()).toEqual([])
    expect(page.get('[role=alert]').text()).toContain('type a number such as 4')
    expect(page.findAll('input').map((i) => i.element.value)).toEqual(['4,19', '2,1x'])
    await page.findAll('input')[1]!.setValue('2,1')
    await page.findAll('button').find((b) => b.text() === 'Stopped by hand')!.trigger('click')
    await flushPromises()
    expect(sent()).toEqual([{ outcome: 'stopped', volts: 4.19, counted_ah: 2.1 }])
  })
})
