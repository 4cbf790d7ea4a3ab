import { useSettings } from './useSettings'

/** A key that bounces strikes again within this, ms; a hand takes longer. */
const BOUNCES_MS = 50
/** A click so soon after a press is that press, ms. */
const ITS_CLICK_MS = 1000

let pressed: number | null = null
let handled = -Infinity
let lastKey = ''
const settings = useSettings()

function press(event: Event) {
  pressed = event.timeStamp
  handled = performance.now()
}
/** What a strike does: a command, unless it types, which the field tells before the next one comes; what moves about may be struck fast. */
const does = (key: string) => key.length === 1 || key === 'Enter' || key === settings.value.pedal
function struck(event: Event | KeyboardEvent) {
  // A browser that fills a form in sends key events without a key.
  if (!('key' in event)) return
  const again = does(event.key) && event.key === lastKey && pressed !== null
  // Held down it says nothing new either; a space held down turns the page.
  const idle = again && (event.repeat ? event.key !== ' ' : event.timeStamp - pressed! < BOUNCES_MS)
  lastKey = event.key
  press(event)
  if (!idle) return
  event.preventDefault()
  event.stopImmediatePropagation()
}
addEventListener('keydown', struck, true)
// Two letters alike that were typed, by hand or by a scanner, are two; and between the strikes of a bounce nothing is touched.
addEventListener('input', () => (lastKey = ''), true)
addEventListener('pointerdown', (event) => {
  lastKey = ''
  press(event)
}, true)
// Whoever presses by other means than key and pointer clicks.
addEventListener('click', (event) => performance.now() - handled > ITS_CLICK_MS && press(event), true)

/** When the hand pressed for what is being done, ms: by the event's own clock, for a slow machine comes to it late. Before any press: now. */
export const pressedAt = () => pressed ?? performance.now()
