/** A value that should hold still while a part is moved: counts where it leaves its resting value, and when. */
export class Dropouts {
  /** Seconds since the start of each drop-out. */
  readonly at: number[] = []
  private resting: number | null = null
  private away = false

  constructor(private readonly startedAt: number) {}

  /** A value at a moment; null is an overflow. True when a drop-out has just begun. */
  see(at: number, value: number | null): boolean {
    if (this.resting === null) {
      this.resting = value
      return false
    }
    const left = value === null || Math.abs(value - this.resting) > Math.max(0.05 * Math.abs(this.resting), 0.02)
    const began = left && !this.away
    if (began) this.at.push(at - this.startedAt)
    this.away = left
    return began
  }

  /** The value it rests at. */
  get rests(): number | null {
    return this.resting
  }
}
