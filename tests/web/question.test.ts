import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { pressedAt } from '@/composables/hand'
import { Question } from '@/composables/question'

/** A page that comes to what is pressed when it likes: events carry when the hand pressed, and frames come when they are let. */
describe('something that was asked about', () => {
  const frames: (() => void)[] = []
  // One page for all: what was pressed for one test lies long before the next.
  let base = 0
  let now = 0
  const press = (at: number, kind = 'keydown', key = 'Enter') => dispatchEvent(Object.defineProperty(kind === 'keydown' ? new KeyboardEvent(kind, { key, cancelable: true }) : new Event(kind), 'timeStamp', { value: base + at }))
  async function paint(at: number) {
    for (let n = 0; n < 2; n++) {
      await Promise.resolve()
      await Promise.resolve()
      now = base + at
      frames.splice(0).forEach((run) => run())
    }
    await new Promise((done) => setTimeout(done))
  }
  function asked() {
    const question = new Question()
    press(1000)
    question.ask('12.3')
    return question
  }
  beforeEach(() => {
    frames.length = 0
    base += 100_000
    now = base + 1000
    vi.stubGlobal('requestAnimationFrame', (run: () => void) => frames.push(run))
    vi.spyOn(performance, 'now').mockImplementation(() => now)
  })
  afterEach(() => {
    vi.unstubAllGlobals()
    vi.restoreAllMocks()
  })

  it('is answered by a hand that pressed after it was painted', async () => {
    const question = asked()
    await paint(1400)
    press(1900)
    expect(question.answeredBy('12.3')).toBe(true)
    expect(question.answeredBy('12.4')).toBe(false)
    question.drop()
    expect(question.answeredBy('12.3')).toBe(false)
  })

  it.each([1030, 1399, 1500])('is not answered by a key struck at %d ms, however late it is come to', async (at) => {
    const question = asked()
    await paint(1400)
    now = base + 5000
    press(at)
    expect(question.answeredBy('12.3')).toBe(false)
  })

  it('is not answered before anybody can have seen it', () => {
    const question = asked()
    press(9000)
    expect(question.answeredBy('12.3')).toBe(false)
  })

  it('takes the click of a press for that press, and a click of its own for one', () => {
    asked()
    press(1500, 'click')
    expect(pressedAt()).toBe(base + 1000)
    now = base + 4000
    press(4000, 'click')
    expect(pressedAt()).toBe(base + 4000)
  })

  it('lets a key that bounces do nothing twice, and leaves what is typed', () => {
    const done: string[] = []
    const heard = (event: Event) => done.push((event as KeyboardEvent).key)
    addEventListener('keydown', heard)
    const keys: [number, string][] = [[2000, 'Enter'], [2030, 'Enter'], [2200, 'Enter'], [2300, 'PageDown'], [2320, 'PageDown'], [2400, '1'], [2405, '1'], [2410, 'Enter'], [2415, '1'], [2420, 'Enter'], [2500, 'x'], [2530, 'x']]
    const went = keys.map(([at, key]) => {
      const through = press(at, 'keydown', key)
      // In a field it types.
      if (key === '1') dispatchEvent(new Event('input'))
      return through
    })
    removeEventListener('keydown', heard)
    expect(went).toEqual([true, false, true, true, false, true, true, true, true, true, true, false])
    expect(done).toEqual(['Enter', 'Enter', 'PageDown', '1', '1', 'Enter', '1', 'Enter', 'x'])
  })

  it('lets a key that is held down do nothing more, unless it types', () => {
    const held = (key: string) => dispatchEvent(new KeyboardEvent('keydown', { key, repeat: true, cancelable: true }))
    press(2000, 'keydown', 'n')
    expect([held('n'), held('n'), held('Enter')]).toEqual([false, false, true])
    dispatchEvent(new Event('keydown'))
    expect(pressedAt()).toBeLessThan(base + 3000)
    press(3000, 'keydown', 'e')
    dispatchEvent(new Event('input'))
    expect(held('e')).toBe(true)
  })
})
