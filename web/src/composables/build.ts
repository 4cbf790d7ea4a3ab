import type { Schemas } from '@/api/client'

/** A pack's build as it is written: “5S2P”, and of two strings of four “2 × 4S1P”. */
export function labelOf(pack: Pick<Schemas['Pack'], 'series' | 'parallel' | 'strings'>): string {
  const one = `${pack.series / pack.strings}S${pack.parallel}P`
  return pack.strings > 1 ? `${pack.strings} × ${one}` : one
}

/** What the whole pack is rated to hold, Ah: its strings together. */
export const wholeAh = (pack: Pick<Schemas['Pack'], 'rated_ah' | 'strings'>) => Number((pack.rated_ah * pack.strings).toPrecision(10))

/** A string by its letter, from 0. */
export const stringName = (index: number) => `string ${String.fromCharCode(65 + index)}`
