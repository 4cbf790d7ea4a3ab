import type { Schemas } from '@/api/client'
import { tapsOf } from '@/composables/points'
import type { Point } from '@/composables/useFigure'

export interface Dimension {
  index: number
  low: number
  high: number
  volts: number
  residual: number | null
  column: number
  doubted: boolean
  point: Point
}

/** The readings of a set as dimension lines between taps, packed into as few columns as lets none cross another; `terminals`: the tap that is pack plus. */
export function dimensions(assessed: Schemas['Assessed'], terminals: number): Dimension[] {
  const doubted = new Set(assessed.reconciled.findings.flatMap((f) => ('reading' in f && typeof f.reading === 'number' ? [f.reading] : [])))
  const lines = assessed.readings.map((r, index) => {
    const [a, b] = tapsOf(r) ?? [0, terminals]
    const point: Point = r.kind === 'tap' ? { kind: r.kind, tap: r.tap } : r.kind === 'group' ? { kind: r.kind, group: r.group } : r.kind === 'span' ? { kind: r.kind, from_tap: r.from_tap, to_tap: r.to_tap } : { kind: r.kind }
    return { index, low: Math.min(a, b), high: Math.max(a, b), volts: r.volts, residual: assessed.reconciled.residuals_v[index] ?? null, column: 0, doubted: doubted.has(index), point }
  })
  // Short ones first, next to the string, as on a drawing.
  const ends: number[][] = []
  for (const line of lines.toSorted((x, y) => x.high - x.low - (y.high - y.low) || x.low - y.low)) {
    const free = ends.findIndex((taken) => taken.every((k) => lines[k]!.high <= line.low || lines[k]!.low >= line.high))
    line.column = free >= 0 ? free : ends.length
    ;(ends[line.column] ??= []).push(line.index)
  }
  return lines
}
