import { inject, type InjectionKey, provide, type ShallowRef, shallowRef } from 'vue'
import type { Schemas } from '@/api/client'

export type Point = Schemas['TapPoint'] | Schemas['GroupPoint'] | Schemas['SpanPoint'] | Schemas['PackPoint']

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
