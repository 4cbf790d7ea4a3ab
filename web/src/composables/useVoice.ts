import { useStorage } from '@vueuse/core'
import { useSettings } from './useSettings'

let audio: AudioContext | undefined
/** Until when alarms are silent, ms; every window keeps to it. They are shown all the same. */
export const mutedUntil = useStorage('saldatura.muted-until', 0)
let waitsForHand = false

/** A short tone: high for accepted, two low ones for questioned, four in turn for an alarm. Silent where the browser has no audio. */
export function tone(kind: 'accepted' | 'questioned' | 'alarm') {
  if (!useSettings().value.tone || typeof AudioContext === 'undefined' || (kind === 'alarm' && mutedUntil.value > Date.now())) return
  // A browser gives no sound before a hand has touched the page: an alarm is heard at the first touch then.
  if (navigator.userActivation && !navigator.userActivation.hasBeenActive) {
    if (kind === 'alarm' && !waitsForHand) {
      waitsForHand = true
      for (const touch of ['pointerdown', 'keydown']) addEventListener(touch, () => setTimeout(() => waitsForHand && ((waitsForHand = false), tone('alarm'))), { once: true })
    }
    return
  }
  // Opening the sound device takes longer than drawing the reading: the reading goes first, the ear does not notice.
  setTimeout(() => sound({ accepted: [880], questioned: [330, 262], alarm: [660, 880, 660, 880] }[kind]), 40)
}

function sound(beeps: number[]) {
  try {
    audio ??= new AudioContext()
    beeps.forEach((hertz, i) => beep(audio!, hertz, i * 0.14))
  } catch {
    // No audio device: the screen says it all.
  }
}

function beep(context: AudioContext, hertz: number, after: number) {
  const oscillator = context.createOscillator()
  const gain = context.createGain()
  const start = context.currentTime + after
  oscillator.frequency.value = hertz
  gain.gain.setValueAtTime(0.12, start)
  gain.gain.exponentialRampToValueAtTime(0.001, start + 0.12)
  oscillator.connect(gain).connect(context.destination)
  oscillator.start(start)
  oscillator.stop(start + 0.13)
}

/** Say the next point aloud, cutting off what is still being said. */
export function say(words: string) {
  if (!useSettings().value.speech || !('speechSynthesis' in window)) return
  window.speechSynthesis.cancel()
  window.speechSynthesis.speak(new SpeechSynthesisUtterance(words))
}
