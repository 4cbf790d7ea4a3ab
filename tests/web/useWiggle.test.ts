import { mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { defineComponent, h, nextTick, ref, shallowRef } from 'vue'
import type { Live, LiveFrame } from '@/composables/useLive'
import { provideWiggle, useWiggle, type Wiggle } from '@/composables/useWiggle'

vi.mock('@/composables/useVoice', () => ({ say: () => {}, tone: () => {} }))

const frame = shallowRef<LiveFrame | null>(null)
const asked: boolean[] = []
const live = { frame, want: (_what: string, wanted: boolean) => asked.push(wanted) } as never as Live

/** The meter shows a value, in ohm or in volts, `at` seconds into the day. */
async function shows(value: { ohm?: number | null; volts?: number | null }, at: number, probes = 'sensor') {
  frame.value = { at, virtual: { probes: { at: probes } }, instruments: [{ key: 'stand-in-meter', kind: 'meter', live: { ohm: null, volts: null, ...value }, stale: false }] } as never
  await nextTick()
}

let given: Wiggle
const view = ref('wiggle')
const Inner = defineComponent(() => {
  const found = useWiggle()
  return () => h('p', String(found.running.value?.at.length ?? 0))
})
const Frame = defineComponent(() => {
  given = provideWiggle(live)
  return () => h('div', [h(Inner, { key: view.value })])
})

describe('a watch while a part is moved', () => {
  let page: ReturnType<typeof mount>
  beforeEach(() => {
    frame.value = null
    asked.length = 0
    view.value = 'wiggle'
    page = mount(Frame)
  })
  afterEach(() => page.unmount())

  it.each([
    ['in the air', { volts: 0.003 }, 'air'],
    ['on nothing that shows', { volts: null, ohm: null }, 'taps'],
    ['on next to nothing', { volts: 0.012 }, 'taps'],
  ])('does not begin with the probes %s', async (_, value, probes) => {
    await shows(value, 1, probes)
    given.start()
    expect([given.watching.value, given.said.value?.includes('is on nothing')]).toEqual([false, true])
  })

  it('counts each time the value leaves where it rests, in whatever view of the job', async () => {
    await shows({ ohm: 10_000 }, 0)
    given.start()
    await shows({ ohm: 10_010 }, 1)
    view.value = 'probe'
    await nextTick()
    await shows({ ohm: null }, 2)
    await shows({ ohm: null }, 3)
    await shows({ ohm: 9_990 }, 4)
    await shows({ ohm: 40_000 }, 5)
    expect(given.running.value?.at).toHaveLength(2)
    expect(page.text()).toBe('2')
    expect([given.watching.value, asked.at(-1)]).toEqual([true, true])
    given.stop()
    await nextTick()
    expect([given.watching.value, asked.at(-1), given.lasted.value > 0]).toEqual([false, false, true])
  })

  it('stops asking for every value when its job is left', async () => {
    await shows({ ohm: 10_000 }, 0)
    given.start()
    await nextTick()
    page.unmount()
    expect(asked.at(-1)).toBe(false)
  })
})
