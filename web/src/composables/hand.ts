import { useSettings } from './useSettings'

/** A key that bounces strikes again within this, ms; a hand takes twice as long. */
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
/** What does something at one press, and twice at two: of these a bounce is no press, whatever a slow machine made of the first meanwhile. */
const does = (key: string) => key === 'Enter' || key === ' ' || key === settings.value.pedal
function struck(event: KeyboardEvent) {
  const bounced = !event.repeat && does(event.key) && event.key === lastKey && pressed !== null && event.timeStamp - pressed < BOUNCES_MS
  lastKey = event.key
  press(event)
  if (!bounced) return
  event.preventDefault()
  event.stopImmediatePropagation()
}
addEventListener('keydown', struck, true)
// Between two strikes of one bounce nothing is typed and nothing is touched.
addEventListener('input', () => (lastKey = ''), true)
addEventListener('pointerdown', (event) => {
  lastKey = ''
  press(event)
}, true)
// Whoever presses by other means than key and pointer clicks.
addEventListener('click', (event) => performance.now() - handled > ITS_CLICK_MS && press(event), true)

/** When the hand pressed for what is being done, ms: by the event's own clock, for a slow machine comes to it late. Before any press: now. */
export const pressedAt = () => pressed ?? performance.now()
