import { nextTick } from 'vue'

/** A key that bounces strikes again within this, ms; a hand that has read a question takes longer. */
const BOUNCE_MS = 150
/** A click so soon after a press is that press, ms. */
const ITS_CLICK_MS = 1000

let pressed: number | null = null
let handled = -Infinity
function press(event: Event) {
  pressed = event.timeStamp
  handled = performance.now()
}
for (const kind of ['keydown', 'pointerdown']) addEventListener(kind, press, true)
// Whoever presses by other means than key and pointer clicks.
addEventListener('click', (event) => performance.now() - handled > ITS_CLICK_MS && press(event), true)

/** When the hand pressed for what is being done, ms: by the event's own clock, for a slow machine comes to it late. Before any press: now. */
export const pressedAt = () => pressed ?? performance.now()

const frame = () => new Promise((done) => requestAnimationFrame(done))
/** When what is on its way to the page has been painted, ms. */
async function painted(): Promise<number> {
  await nextTick()
  await frame()
  await frame()
  return performance.now()
}

/** Something that was asked about. The same once more answers it, pressed by a hand that can have seen the question: no key that bounced. */
export class Question {
  private asked: { what: string; seen: number } | null = null

  ask(what: string) {
    const asked = { what, seen: Infinity }
    this.asked = asked
    void painted().then((at) => (asked.seen = at))
  }

  answeredBy(what: string): boolean {
    return this.asked?.what === what && pressedAt() - this.asked.seen > BOUNCE_MS
  }

  drop() {
    this.asked = null
  }
}
