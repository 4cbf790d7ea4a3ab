import { mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { computed, defineComponent, h, nextTick, ref, shallowRef } from 'vue'
import { shortcuts, useShortcuts } from '@/composables/useShortcuts'

type Sent = { path: string; body: Record<string, unknown> }
const posted: Sent[] = []
const frame = shallowRef<{ instruments: object[]; virtual?: object } | null>(null)
const job = ref({ facts: { id: 7, charges: [] as object[] }, assessment: { undo: null as object | null } })

vi.mock('@/api/client', async (original) => ({
  ...(await original<object>()),
  client: {
    POST: (path: string, { body }: { body: Record<string, unknown> }) => {
      posted.push({ path, body })
      return Promise.resolve({ data: { facts: { id: 7, last_id: posted.length } }, response: { status: 201 } })
    },
  },
}))
vi.mock('@/composables/useJob', () => ({ useJob: () => computed(() => job.value) }))
vi.mock('@/composables/useLive', async (original) => ({ ...(await original<object>()), useLive: () => ({ frame }) }))

/** What a composable gives inside a mounted component, and that component. */
function inside<T>(use: () => T) {
  let given!: T
  const page = mount(
    defineComponent({
      setup() {
        given = use()
        return () => h('div', [h('input', { class: 'words' }), h('input', { class: 'volts', inputmode: 'decimal' })])
      },
    }),
    { attachTo: document.body },
  )
  return { given, page }
}

const press = (key: string, on: EventTarget = document.body, more: object = {}) => {
  const event = new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true, ...more })
  on.dispatchEvent(event)
  return event.defaultPrevented
}

describe('keys of a screen', () => {
  it('act while the screen is shown, and not once it is gone', () => {
    const run = vi.fn()
    const { page } = inside(() => useShortcuts([{ key: 'm', does: 'turns the meter', run }]))
    expect(shortcuts().map((s) => s.key)).toContain('m')
    expect(press('M')).toBe(true)
    page.unmount()
    expect(press('m')).toBe(false)
    expect(run).toHaveBeenCalledTimes(1)
  })

  it('leave letters to whoever types words, and act beside a field for numbers where they always do', () => {
    const [run, always] = [vi.fn(), vi.fn()]
    const { page } = inside(() => useShortcuts([{ key: 'm', does: 'one', run }, { key: 'x', does: 'two', run: always, always: true }]))
    const [words, volts] = [page.get('.words').element, page.get('.volts').element]
    for (const field of [words, volts]) press('m', field)
    expect(run.mock.calls).toEqual([])
    press('x', words)
    expect(always.mock.calls).toEqual([])
    press('x', volts)
    expect(always).toHaveBeenCalledTimes(1)
    press('m', document.body, { ctrlKey: true })
    expect(run.mock.calls).toEqual([])
    page.unmount()
  })
})

describe('taking back', () => {
  it('takes back the act that stands, once for a key that bounces, and says what it was', async () => {
    vi.useFakeTimers({ toFake: ['performance'], now: 10_000 })
    vi.advanceTimersByTime(10_000)
    posted.length = 0
    const { useUndo } = await import('@/composables/useUndo')
    job.value.assessment.undo = { fact: 12, words: 'group 2: 3.90 V' }
    const { given, page } = inside(() => useUndo())
    await given.undo()
    expect(posted).toEqual([{ path: '/api/jobs/{job_id}/taken-back', body: { fact: 12, reason: 'undone' } }])
    expect(given.undone.value).toBe('group 2: 3.90 V')
    await given.undo()
    expect(posted).toHaveLength(1)
    vi.advanceTimersByTime(600)
    await given.undo()
    expect(posted).toHaveLength(2)
    job.value.assessment.undo = null
    vi.advanceTimersByTime(600)
    await given.undo()
    expect(posted).toHaveLength(2)
    page.unmount()
    vi.useRealTimers()
  })
})

describe('a live meter', () => {
  const bench = (volts: number | null, touch: number, stale = false) => ({
    instruments: [
      { key: 'thermometer', kind: 'thermometer', name: 'warmth' },
      { key: 'bench', kind: 'meter', name: 'Bench meter', stale, live: { volts }, steady: { share: 1, volts, touch } },
    ],
  })
  let settled: [number, string][] = []
  beforeEach(() => {
    vi.useFakeTimers()
    localStorage.clear()
    settled = []
    frame.value = bench(3.9, 0)
  })
  afterEach(() => void vi.useRealTimers())

  async function meter(takes = () => Promise.resolve(1) as Promise<unknown> | null) {
    const { useMeter } = await import('@/composables/useMeter')
    return inside(() =>
      useMeter(
        () => 7,
        () => ({ at: 'terminals' }),
        (volts, name) => (settled.push([volts, name]), takes()),
      ),
    )
  }

  it('is off until it is chosen, and goes round by one key', async () => {
    const { given, page } = await meter()
    expect(given.meters.value.map((m) => m.name)).toEqual(['Bench meter'])
    expect(given.now()).toBeNull()
    given.next()
    expect(given.meter.value?.name).toBe('Bench meter')
    expect(given.now()).toEqual({ volts: 3.9, name: 'Bench meter' })
    given.next()
    expect(given.meter.value).toBeNull()
    page.unmount()
  })

  it('tells a settled value once a touch, and nothing that settled before it was chosen', async () => {
    const { given, page } = await meter()
    given.next()
    await nextTick()
    vi.advanceTimersByTime(1000)
    expect(settled).toEqual([])
    frame.value = bench(3.71, 1)
    await nextTick()
    vi.advanceTimersByTime(1000)
    expect(settled).toEqual([[3.71, 'Bench meter']])
    page.unmount()
  })

  it('tells a value again that could not be kept yet, and never one that is old', async () => {
    let busy = true
    const { given, page } = await meter(() => (busy ? null : Promise.resolve(1)))
    given.next()
    frame.value = bench(3.55, 2)
    await nextTick()
    expect(settled).toHaveLength(1)
    busy = false
    vi.advanceTimersByTime(300)
    expect(settled).toHaveLength(2)
    vi.advanceTimersByTime(1000)
    expect(settled).toHaveLength(2)
    frame.value = bench(3.2, 3, true)
    await nextTick()
    vi.advanceTimersByTime(1000)
    expect(settled).toHaveLength(2)
    expect(given.now()).toBeNull()
    page.unmount()
  })
})

describe('charges that the program drives', () => {
  it('are those that the frames tell while one is minded, and rise only where they show volts', async () => {
    const { useDriven } = await import('@/composables/useDriven')
    const told = [
      { charge: 4, group: 2, live: { volts: 3.9 }, setting: { volts: 4.2 }, off: false },
      { charge: 5, group: 3, live: null, setting: { volts: 4.2 }, off: true },
    ]
    job.value.facts.charges = [{ id: 4, driven: true, end: null }]
    frame.value = { instruments: [], driven: told } as never
    const { given, page } = inside(() => useDriven(computed(() => job.value as never), frame as never))
    expect(given.driven.value.size).toBe(2)
    expect(given.rising.value).toEqual([{ group: 2, volts: 3.9, target: 4.2, on: true }])
    // The program does not answer, or it ended: what was shown of it is not what is there now.
    frame.value = null
    expect(given.driven.value.size).toBe(0)
    frame.value = { instruments: [], driven: told } as never
    job.value = { ...job.value, facts: { id: 7, charges: [{ id: 4, driven: true, end: {} }] } }
    expect(given.driven.value.size).toBe(0)
    expect(given.rising.value).toEqual([])
    page.unmount()
  })
})
