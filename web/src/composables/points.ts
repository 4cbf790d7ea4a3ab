import { stringName } from './build'

/** Points of measurement, and the taps they lie between. */

interface At {
  kind: string
  tap?: number
  group?: number
  from_tap?: number
  to_tap?: number
}

/** The taps (black probe, red probe) of a point; null for the terminals, which are no taps. */
export function tapsOf(point: At): [number, number] | null {
  if (point.kind === 'tap') return [0, point.tap!]
  if (point.kind === 'group') return [point.group! - 1, point.group!]
  if (point.kind === 'span') return [point.from_tap!, point.to_tap!]
  return null
}

/** The string, from 0, whose minus a point is read against, where that is not the first; `each`: groups in a string. */
function laterString(point: At, each?: number): number | null {
  return each && point.kind === 'span' && point.from_tap! > 0 && point.from_tap! % each === 0 ? point.from_tap! / each : null
}

/** A point in a few words, beside others: “tap 5”, “across group 3”, “tap 5 on 2”, “terminals”. */
export function pointShort(point: At, each?: number): string {
  if (laterString(point, each) !== null) return `tap ${point.to_tap}`
  if (point.kind === 'tap') return `tap ${point.tap}`
  if (point.kind === 'group') return `across group ${point.group}`
  return point.kind === 'span' ? `tap ${point.to_tap} on ${point.from_tap}` : 'terminals'
}

/** The same in a column of such points: that it is read against tap 0 goes without saying. */
export function pointInColumn(point: At, each?: number): string {
  const string = laterString(point, each)
  if (string !== null) return `tap ${point.to_tap}, ${stringName(string)}`
  return point.kind === 'tap' ? `tap ${point.tap}` : pointWords(point, each)
}

/** A point of the run in the technician's words. */
export function pointWords(point: At, each?: number): string {
  const string = laterString(point, each)
  if (string !== null) return `tap ${point.to_tap} against the minus of ${stringName(string)}`
  if (point.kind === 'tap') return `tap ${point.tap} against tap 0`
  if (point.kind === 'group') return `group ${point.group}`
  return point.kind === 'span' ? `tap ${point.to_tap} against tap ${point.from_tap}` : 'pack terminals'
}
