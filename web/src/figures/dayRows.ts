import type { Schemas } from '@/api/client'

export interface Row {
  name: string
  hands: boolean
  bars: Schemas['Bar'][]
}

const ms = (iso: string) => new Date(iso).getTime()
/** More rows of what needs no channel would only say that much rests. */
const MOST_LOOSE = 4

/** Rows of the day's figure between two moments: hands first, then each channel, then what runs on none, side by side where it overlaps. */
export function rowsOf(hands: Schemas['Bar'][], runs: Schemas['Bar'][], from: number, to: number): Row[] {
  const seen = (b: Schemas['Bar']) => ms(b.high) > from && ms(b.from_at) < to
  const rows: Row[] = packed(hands.filter(seen)).map((bars, n) => ({ name: n ? '' : 'hands', hands: true, bars }))
  if (!rows.length) rows.push({ name: 'hands', hands: true, bars: [] })
  const shown = runs.filter(seen)
  for (const name of [...new Set(shown.flatMap((b) => (b.channel ? [b.channel] : [])))].sort()) rows.push({ name, hands: false, bars: shown.filter((b) => b.channel === name) })
  const loose = packed(shown.filter((b) => !b.channel))
  loose.slice(0, MOST_LOOSE).forEach((bars, n) => rows.push({ name: n ? '' : 'by itself', hands: false, bars }))
  return rows
}

/** Bars in as few rows as none of them overlaps in. */
function packed(bars: Schemas['Bar'][]): Schemas['Bar'][][] {
  const rows: Schemas['Bar'][][] = []
  for (const bar of bars.toSorted((a, b) => ms(a.from_at) - ms(b.from_at))) {
    const row = rows.find((r) => ms(r.at(-1)!.to_at) <= ms(bar.from_at))
    if (row) row.push(bar)
    else rows.push([bar])
  }
  return rows
}

/** What runs beyond the rows that are drawn. */
export const hidden = (runs: Schemas['Bar'][], rows: Row[], from: number, to: number) =>
  runs.filter((b) => ms(b.high) > from && ms(b.from_at) < to).length - rows.filter((r) => !r.hands).reduce((n, r) => n + r.bars.length, 0)
