/** A time of today or tomorrow as people type it: "14", "14:00", "14.30", "1430", "2 pm", "40 min", "2 h", "1 h 20"; null where it is none. What has passed today is tomorrow. */
export function whenOf(text: string, now: Date): Date | null {
  const said = text.trim().toLowerCase().replace(/\s+/g, ' ')
  const lasts = /^(?:in )?(?:(\d+(?:[.,]\d+)?) ?(?:h|hours?|std))? ?(?:(\d+) ?(?:m|min|minutes?)?)?$/.exec(said)
  if (lasts && /[a-z]/.test(said.replace(/^in /, ''))) {
    const minutes = Number((lasts[1] ?? '0').replace(',', '.')) * 60 + Number(lasts[2] ?? 0)
    return minutes > 0 && minutes <= 120 * 1440 ? new Date(now.getTime() + minutes * 60_000) : null
  }
  const at = /^(?:till |until |bis )?(\d{1,2})(?:[:.h]?(\d{2}))? ?(am|pm)?$/.exec(said)
  if (!at) return null
  const hour = at[3] ? (Number(at[1]) % 12) + (at[3] === 'pm' ? 12 : 0) : Number(at[1])
  const minute = Number(at[2] ?? 0)
  if (hour > 24 || minute > 59 || (at[3] && Number(at[1]) > 12)) return null
  const then = new Date(now)
  then.setHours(hour, minute, 0, 0)
  if (then <= now) then.setDate(then.getDate() + 1)
  return then
}

/** Minutes after midnight as typed, "8", "8:30", "1230"; null where they are none. */
export function minutesOf(text: string): number | null {
  const at = /^(\d{1,2})(?:[:.h]?(\d{2}))?$/.exec(text.trim())
  if (!at) return null
  const minutes = Number(at[1]) * 60 + Number(at[2] ?? 0)
  return Number(at[2] ?? 0) < 60 && minutes <= 1440 ? minutes : null
}

export const clockOf = (minutes: number) => `${Math.floor(minutes / 60)}:${String(minutes % 60).padStart(2, '0')}`

/** When, as short as it can be told: "14:20" today, "tomorrow 8:00", "Fri 8:00", "Mon 14 Dec". */
export function shortly(iso: string, now: number): string {
  const at = new Date(iso)
  const time = at.toLocaleTimeString(undefined, { hour: '2-digit', minute: '2-digit' })
  const days = Math.round((new Date(at).setHours(0, 0, 0, 0) - new Date(now).setHours(0, 0, 0, 0)) / 86_400_000)
  if (days === 0) return time
  if (days === 1) return `tomorrow ${time}`
  if (days > 0 && days < 7) return `${at.toLocaleDateString(undefined, { weekday: 'short' })} ${time}`
  return at.toLocaleDateString(undefined, { weekday: 'short', day: 'numeric', month: 'short' })
}
