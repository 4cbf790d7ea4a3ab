import { shallowRef } from 'vue'
import { useSettings } from './useSettings'

let audio: AudioContext | undefined
let waitsForHand = false

/** A short tone: high for accepted, two low ones for questioned, two rising ones for the next point, four in turn for an alarm, louder and longer where somebody could be hurt. Silent where the browser has no audio. */
export function tone(kind: 'accepted' | 'questioned' | 'alarm' | 'danger' | 'next') {
  if (!useSettings().value.tone || typeof AudioContext === 'undefined') return
  // A browser gives no sound before a hand has touched the page: an alarm is heard at the first touch then.
  if (navigator.userActivation && !navigator.userActivation.hasBeenActive) {
    if ((kind === 'alarm' || kind === 'danger') && !waitsForHand) {
      waitsForHand = true
      for (const touch of ['pointerdown', 'keydown']) addEventListener(touch, () => setTimeout(() => waitsForHand && ((waitsForHand = false), tone(kind))), { once: true })
    }
    return
  }
  // Opening the sound device takes longer than drawing the reading: the reading goes first, the ear does not notice.
  setTimeout(() => sound({ accepted: [880], questioned: [330, 262], alarm: [660, 880, 660, 880], danger: [990, 660, 990, 660, 990, 660, 990, 660], next: [520, 660] }[kind], kind === 'danger' ? 0.4 : 0.12), 40)
}

function sound(beeps: number[], loud: number) {
  try {
    audio ??= new AudioContext()
    beeps.forEach((hertz, i) => beep(audio!, hertz, i * 0.14, loud))
  } catch {
    // No audio device: the screen says it all.
  }
}

function beep(context: AudioContext, hertz: number, after: number, loud: number) {
  const oscillator = context.createOscillator()
  const gain = context.createGain()
  const start = context.currentTime + after
  oscillator.frequency.value = hertz
  gain.gain.setValueAtTime(loud, start)
  gain.gain.exponentialRampToValueAtTime(0.001, start + 0.12)
  oscillator.connect(gain).connect(context.destination)
  oscillator.start(start)
  oscillator.stop(start + 0.13)
}

/** Whether this browser has a voice; some find theirs a moment after the page is there. */
export const hasVoice = shallowRef(false)
if (typeof window !== 'undefined' && 'speechSynthesis' in window) {
  const look = () => (hasVoice.value = window.speechSynthesis.getVoices().length > 0)
  look()
  window.speechSynthesis.addEventListener?.('voiceschanged', look)
}

/** Say the next point aloud, cutting off what is still being said; where the browser has no voice, a tone says that it is up. */
export function say(words: string) {
  if (!useSettings().value.speech) return
  if (!hasVoice.value) return tone('next')
  window.speechSynthesis.cancel()
  window.speechSynthesis.speak(new SpeechSynthesisUtterance(words))
}

/** Say an alarm aloud after what is being said, where speech is on and the browser has a voice; its tone was heard already. */
export function announce(words: string) {
  if (useSettings().value.speech && hasVoice.value) window.speechSynthesis.speak(new SpeechSynthesisUtterance(words))
}
