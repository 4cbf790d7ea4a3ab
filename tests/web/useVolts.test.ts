import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick } from 'vue'
import { useVolts } from '@/composables/useVolts'

const field = () => useVolts(() => 'group 2', () => ({ low: 3.9, high: 4.22 }), () => ({ low: -0.5, high: 4.5 }))

const painted = () => new Promise((done) => setTimeout(done, 100))

describe('a voltage as it is typed anywhere', () => {
  beforeEach(() => void vi.useFakeTimers({ toFake: ['performance'] }))
  afterEach(() => void vi.useRealTimers())

  it.each([
    ['4.08', 4.08, 0.01],
    ['4,080', 4.08, 0.001],
    ['408', 4.08, 0.01],
    ['3,75', 3.75, 0.01],
  ])('%s is %d V', (typed, volts, step) => {
    const one = field()
    one.text.value = typed
    expect(one.take()).toEqual({ volts, step })
  })

  it('says how digits without a point are taken, and nothing of what needs no saying', () => {
    const one = field()
    one.text.value = '400'
    expect(one.preview.value).toBe('taken as 4.00 V')
    one.text.value = '4.00'
    expect(one.preview.value).toBeNull()
  })

  it.each(['', '  ', '4.0.8', 'x', '4,1x'])('refuses “%s” in one line that names what is read', (typed) => {
    const one = field()
    one.text.value = typed
    expect(one.take()).toBeNull()
    expect(one.wrong.value).toMatch(typed.trim() ? /is not a number/ : /group 2/)
  })

  it('asks once about what cannot be; a key that bounced has not read the question, and another number is asked about anew', async () => {
    const one = field()
    one.text.value = '12.33'
    await nextTick()
    expect(one.take()).toBeNull()
    expect(one.questioned.value).toContain('between −0.50 and 4.50 V')
    await painted()
    vi.advanceTimersByTime(60)
    expect(one.take()).toBeNull()
    vi.advanceTimersByTime(300)
    expect(one.take()).toEqual({ volts: 12.33, step: 0.01 })
    one.text.value = '13.33'
    await nextTick()
    expect(one.questioned.value).toBeNull()
    expect(one.take()).toBeNull()
    one.clear()
    await nextTick()
    expect([one.text.value, one.questioned.value, one.wrong.value]).toEqual(['', null, null])
  })
})
