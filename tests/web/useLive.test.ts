import { createApp, defineComponent, h, nextTick, ref } from 'vue'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { fresh, type LiveFrame, provideLive, shown } from '@/composables/useLive'

class FakeSocket {
  static all: FakeSocket[] = []
  onmessage: ((event: { data: string }) => void) | null = null
  onclose: (() => void) | null = null
  closed = false
  constructor(readonly url: string) {
    FakeSocket.all.push(this)
  }

  close() {
    this.closed = true
    this.onclose?.()
  }

  say(...ids: number[]) {
    this.onmessage?.({ data: JSON.stringify({ samples: ids.map((id) => ({ id })), instruments: [] }) })
  }
}

const last = () => FakeSocket.all.at(-1)!

function mounted() {
  let live!: ReturnType<typeof provideLive>
  const id = ref(4)
  const app = createApp(defineComponent({ setup: () => ((live = provideLive(id)), () => h('i')) }))
  app.mount(document.createElement('div'))
  return { app, id, live }
}

describe('the stream of a page', () => {
  beforeEach(() => {
    vi.useFakeTimers()
    FakeSocket.all = []
    vi.stubGlobal('WebSocket', FakeSocket)
  })
  afterEach(() => {
    vi.useRealTimers()
    vi.unstubAllGlobals()
  })

  it('comes back after a break and asks for what came after its last entry', () => {
    const { live } = mounted()
    expect(last().url).toMatch(/\/api\/jobs\/4\/stream\?after=0$/)
    last().say(1, 2)
    last().say(3)
    last().close()
    expect(live.frame.value).toBeNull()
    vi.advanceTimersByTime(1000)
    expect(last().url).toMatch(/after=3$/)
    last().say(4, 5)
    expect(live.samples.value.map((s) => s.id)).toEqual([1, 2, 3, 4, 5])
  })

  it('lets what it shows grow old when the program falls silent, and young again with a beat and a frame', () => {
    const { app, live } = mounted()
    const meter = { key: 'shop-1', kind: 'meter', live: { volts: 3.9 }, stale: false }
    const tell = (told: object) => last().onmessage?.({ data: JSON.stringify(told) })
    tell({ instruments: [meter] })
    for (let beat = 0; beat < 4; beat++) {
      vi.advanceTimersByTime(1000)
      tell({ beat: true })
    }
    expect(fresh(live.frame.value!.instruments[0])).toBe(true)
    vi.advanceTimersByTime(2600)
    expect(fresh(live.frame.value!.instruments[0])).toBe(false)
    tell({ instruments: [meter] })
    expect(fresh(live.frame.value!.instruments[0])).toBe(true)
    app.unmount()
  })

  it('begins afresh for another job and ends with its page', async () => {
    const { app, id, live } = mounted()
    last().say(9)
    id.value = 5
    await nextTick()
    expect(last().url).toMatch(/jobs\/5\/stream\?after=0$/)
    expect(live.samples.value).toEqual([])
    app.unmount()
    vi.advanceTimersByTime(5000)
    expect(FakeSocket.all.map((s) => s.closed)).toEqual([true, true])
  })
})

it('shows a value to the digits its instrument has', () => {
  const none = { ohm: null, celsius: null, group_v: null, ah: null, wh: null, seconds: null, doing: null, amps: null, volts: null }
  const meter = { accuracy: { percent: 0.5, digits: 2, resolution_v: 0.01 } } as LiveFrame['instruments'][number]
  expect(shown({ ...meter, live: { ...none, volts: -4.1 } })).toBe('−4.10 V')
  expect(shown({ ...meter, live: { ...none, ohm: 13040 } })).toBe('13.04 kΩ')
  expect(shown({ ...meter, live: none })).toBe('overflow')
  expect(shown({ ...meter, live: null })).toBe('–')
})
