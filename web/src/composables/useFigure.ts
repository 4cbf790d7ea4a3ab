import { inject, type InjectionKey, provide, type ShallowRef, shallowRef } from 'vue'
import type { Schemas } from '@/api/client'

export type Point = Schemas['TapPoint'] | Schemas['GroupPoint'] | Schemas['SpanPoint'] | Schemas['PackPoint']

/** What a meter reads between two taps: against tap 0, across a group, or over several. */
export function between(a: number, b: number): Point {
  const [low, high] = a < b ? [a, b] : [b, a]
  if (low === 0) return { kind: 'tap', tap: high }
  return high - low === 1 ? { kind: 'group', group: high } : { kind: 'span', from_tap: low, to_tap: high }
}

interface Figure {
  /** The point being read, lit in the pack pane. */
  lit: ShallowRef<Point | null>
  /** What a click on a tap or a row does; null while the stage takes no readings. */
  pick: ShallowRef<((point: Point) => void) | null>
}

const KEY: InjectionKey<Figure> = Symbol('figure')

export function provideFigure(): Figure {
  const figure: Figure = { lit: shallowRef(null), pick: shallowRef(null) }
  provide(KEY, figure)
  return figure
}

export function useFigure(): Figure {
  const figure = inject(KEY)
  if (!figure) throw new Error('useFigure outside a job frame')
  return figure
}
