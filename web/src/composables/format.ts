/** How quantities are written. Nothing is shown to more digits than it has. */

const MINUS = '−'

export function volts(value: number | null | undefined, digits = 2): string {
  if (value === null || value === undefined) return '–'
  return value.toFixed(digits).replace('-', MINUS)
}

/** Digits after the point that a meter of this resolution gives. */
export const digitsOf = (resolutionV: number) => Math.max(0, Math.min(3, Math.round(-Math.log10(resolutionV))))

export function millivolts(value: number | null | undefined): string {
  if (value === null || value === undefined) return ''
  const mv = Math.round(value * 1000)
  if (mv === 0) return '±0'
  return mv > 0 ? `+${mv}` : `${MINUS}${-mv}`
}

export function ampHours(value: number): string {
  return value >= 1 ? value.toFixed(1) : value.toFixed(2)
}

export const percent = (fraction: number) => `${Math.round(fraction * 100)} %`

/** 0:18, 5:40, 21:05 h: time left as hours and minutes. */
export function timeLeft(ms: number): string {
  const minutes = Math.max(0, Math.round(ms / 60000))
  return `${Math.floor(minutes / 60)}:${String(minutes % 60).padStart(2, '0')}`
}

export function duration(seconds: number): string {
  const minutes = Math.round(seconds / 60)
  if (minutes < 60) return `${minutes} min`
  if (minutes >= 48 * 60) return `${(minutes / 1440).toFixed(1)} days`
  return `${Math.floor(minutes / 60)} h ${String(minutes % 60).padStart(2, '0')}`
}

export const clock = (iso: string) => new Date(iso).toLocaleTimeString(undefined, { hour: '2-digit', minute: '2-digit' })

// A day of another year says which.
const THIS_YEAR_MS = 300 * 86_400_000
export const day = (iso: string) =>
  new Date(iso).toLocaleDateString(undefined, { day: 'numeric', month: 'short', ...(Math.abs(Date.now() - new Date(iso).getTime()) > THIS_YEAR_MS ? { year: 'numeric' as const } : {}) })

export const jobNumber = (id: number) => String(id).padStart(4, '0')
