import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

/** The browser's audio and voice, as far as they are asked: which tones were sounded, what was said. */
let tones: number[]
let spoken: string[]
function browser(voices: number) {
  tones = []
  spoken = []
  class Context {
    currentTime = 0
    destination = {}
    createOscillator = () => ({ frequency: { set value(hertz: number) { tones.push(hertz) } }, connect: (to: unknown) => to, start() {}, stop() {} })
    createGain = () => ({ gain: { setValueAtTime() {}, exponentialRampToValueAtTime() {} }, connect: (to: unknown) => to })
  }
  vi.stubGlobal('AudioContext', Context)
  vi.stubGlobal('SpeechSynthesisUtterance', class { constructor(readonly text: string) {} })
  Object.defineProperty(window, 'speechSynthesis', { configurable: true, value: { getVoices: () => Array(voices).fill({}), cancel() {}, speak: (of: { text: string }) => spoken.push(of.text), addEventListener() {} } })
}

beforeEach(() => {
  vi.useFakeTimers()
  vi.resetModules()
  localStorage.clear()
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

async function voice(voices: number, speech: boolean) {
  browser(voices)
  const { useSettings } = await import('../../web/src/composables/useSettings')
  useSettings().value = { ...useSettings().value, speech, tone: true }
  return import('../../web/src/composables/useVoice')
}

describe('the next point', () => {
  it('is said where the browser has a voice', async () => {
    const { say } = await voice(2, true)
    say('tap 5 against tap 0')
    vi.runAllTimers()
    expect(spoken).toEqual(['tap 5 against tap 0'])
    expect(tones).toEqual([])
  })

  it('is two rising tones where it has none, and nothing where speech is off', async () => {
    const { say } = await voice(0, true)
    say('tap 5 against tap 0')
    vi.runAllTimers()
    expect(spoken).toEqual([])
    expect(tones).toHaveLength(2)
    expect(tones[1]).toBeGreaterThan(tones[0]!)
    const off = await voice(0, false)
    off.say('tap 6 against tap 0')
    vi.runAllTimers()
    expect(tones).toEqual([])
  })
})
