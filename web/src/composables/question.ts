import { nextTick } from 'vue'
import { pressedAt } from './hand'

/** A hand that has read a question takes longer than this, ms. */
const READS_MS = 150

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
    return this.asked?.what === what && pressedAt() - this.asked.seen > READS_MS
  }

  drop() {
    this.asked = null
  }
}
