import type { Schemas } from '@/api/client'

type Point = Schemas['StepPoint']
const JUMP_SHARE = 0.2

/**
 * A log of volts and amps from two instruments that are read one after the other. The value at the jump itself is left
 * out: its volts may still be those from before.
 */
export class StepLog {
  readonly points: Point[] = []
  private last: Point | null = null

  see(point: Point) {
    if (this.last && point.at_s <= this.last.at_s) return
    const jumped = this.last !== null && Math.abs(point.amps - this.last.amps) > JUMP_SHARE * Math.max(Math.abs(point.amps), Math.abs(this.last.amps), 0.02)
    this.last = point
    if (!jumped) this.points.push(point)
  }

  /** The largest step so far, A. */
  get step(): number {
    const amps = this.points.map((p) => p.amps)
    return amps.length ? Math.max(...amps) - Math.min(...amps) : 0
  }
}
