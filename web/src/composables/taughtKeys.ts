/** Keys that type, move or close are needed for that; a pedal sends one that nothing else uses. */
export const PEDALS = /^(F\d{1,2}|Page(Up|Down)|Home|End|Insert|Pause|ScrollLock|Media\w+|Audio\w+|Browser\w+|Launch\w+|ContextMenu)$/

// A reader types a sign every few milliseconds; a hand needs ten times as long.
const FAST_MS = 45
const LEAST = 3

/** Tells a scanner that types from a hand: signs close together, then the key that ends them. */
export class Scan {
  private text = ''
  private last = 0
  private slowest = 0

  /** A key as it came; what was read where it ended something. */
  press(key: string, at: number): { text: string; end: 'Enter' | 'Tab'; fast: boolean } | null {
    if (key === 'Enter' || key === 'Tab') {
      const { text, slowest } = this
      this.text = ''
      return text.length ? { text, end: key, fast: text.length >= LEAST && slowest <= FAST_MS } : null
    }
    if (key.length !== 1) return null
    this.slowest = this.text ? Math.max(this.slowest, at - this.last) : 0
    this.text += key
    this.last = at
    return null
  }
}
