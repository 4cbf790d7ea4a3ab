import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

/** A page that comes to what is pressed when it likes: events carry when the hand pressed, and frames come when they are let. */
describe('something that was asked about', () => {
  const frames: (() => void)[] = []
  let now = 1000
  const press = (at: number, kind = 'keydown') => dispatchEvent(Object.defineProperty(new Event(kind), 'timeStamp', { value: at }))
  async function paint(at: number) {
    for (let n = 0; n < 2; n++) {
      await Promise.resolve()
      await Promise.resolve()
      now = at
      frames.splice(0).forEach((run) => run())
    }
    await new Promise((done) => setTimeout(done))
  }
  async function asked() {
    vi.resetModules()
    const { pressedAt, Question } = await import('@/composables/question')
    const question = new Question()
    press(1000)
    question.ask('12.3')
    return { pressedAt, question }
  }
  beforeEach(() => {
    frames.length = 0
    now = 1000
    vi.stubGlobal('requestAnimationFrame', (run: () => void) => frames.push(run))
    vi.spyOn(performance, 'now').mockImplementation(() => now)
  })
  afterEach(() => {
    vi.unstubAllGlobals()
    vi.restoreAllMocks()
  })

  it('is answered by a hand that pressed after it was painted', async () => {
    const { question } = await asked()
    await paint(1400)
    press(1900)
    expect(question.answeredBy('12.3')).toBe(true)
    expect(question.answeredBy('12.4')).toBe(false)
    question.drop()
    expect(question.answeredBy('12.3')).toBe(false)
  })

  it.each([1030, 1399, 1500])('is not answered by a key struck at %d ms, however late it is come to', async (at) => {
    const { question } = await asked()
    await paint(1400)
    now = 5000
    press(at)
    expect(question.answeredBy('12.3')).toBe(false)
  })

  it('is not answered before anybody can have seen it', async () => {
    const { question } = await asked()
    press(9000)
    expect(question.answeredBy('12.3')).toBe(false)
  })

  it('takes the click of a press for that press, and a click of its own for one', async () => {
    const { pressedAt } = await asked()
    press(1500, 'click')
    expect(pressedAt()).toBe(1000)
    now = 4000
    press(4000, 'click')
    expect(pressedAt()).toBe(4000)
  })
})
