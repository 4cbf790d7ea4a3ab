import { type Ref, ref } from 'vue'
import type { Schemas } from '@/api/client'
import type { JobView } from '@/api/queries'
import { quantity } from '@/forms/quantity'
import type { Block, Told } from './useBlock'

export type Placed = Schemas['PlacedCell']

const LIES = ['standing', 'across', 'along'] as const
const other = (pole: Placed['top']): Placed['top'] => (pole === 'positive' ? 'negative' : 'positive')

/** The map placed by hand: a draft of its own until it is kept with `keepBlock`, for a block half turned over is no map yet. */
export function useMapDraft(block: Ref<Block | undefined>, keepBlock: (change: Partial<Told>) => Promise<JobView | null>) {
  const draft = ref<Placed[] | null>(null)
  const lookedFrom = ref<'top' | 'bottom'>('top')
  const at = ref<string | null>(null)
  const around = ref<number[]>([])

  function begin() {
    draft.value = (block.value?.map.cells ?? []).map((c) => ({ ...c }))
    lookedFrom.value = 'top'
    around.value = [...(block.value?.entered.around ?? [])]
    at.value = draft.value[0]?.cell ?? null
  }
  function change(how: (cell: Placed) => Partial<Placed>) {
    if (draft.value) draft.value = draft.value.map((c) => (c.cell === at.value ? { ...c, ...how(c) } : c))
  }
  /** Looked at from the other side: left and right are exchanged, and each shows its other pole, as the eye sees it. */
  function lookFrom(side: 'top' | 'bottom') {
    if (!draft.value || side === lookedFrom.value) return
    const xs = draft.value.map((c) => c.x_mm)
    const middle = Math.min(...xs) + Math.max(...xs)
    draft.value = draft.value.map((c) => ({ ...c, x_mm: middle - c.x_mm, top: c.lies === 'along' ? c.top : other(c.top) }))
    lookedFrom.value = side
  }
  const move = (dx: number, dy: number) => change((c) => ({ x_mm: Math.round((c.x_mm + dx) * 100) / 100, y_mm: Math.round((c.y_mm + dy) * 100) / 100 }))
  const turn = () => change((c) => ({ top: other(c.top) }))
  const lay = () => change((c) => ({ lies: LIES[(LIES.indexOf(c.lies ?? 'standing') + 1) % LIES.length]! }))
  const relayer = (by: number) => change((c) => ({ layer: Math.min(Math.max((c.layer ?? 1) + by, 1), 12) }))
  const regroup = (by: number, most: number) => change((c) => ({ group: Math.min(Math.max(c.group + by, 1), most) }))

  /** The chosen cell as it is typed; what is no number is left as it was. */
  function put(what: 'x_mm' | 'y_mm' | 'group', text: string, most: number) {
    const value = quantity(text, what === 'group' ? undefined : 'mm')
    if (value === null) return
    change(() => ({ [what]: what === 'group' ? Math.min(Math.max(Math.round(value), 1), most) : Math.round(value * 100) / 100 }))
  }

  async function keep() {
    if (!draft.value) return
    const [placed, led] = [draft.value, around.value]
    const kept = await keepBlock({ cells: placed, looked_from: lookedFrom.value, around: led, layers: 1 })
    // What is placed while this is under way is kept with the next press.
    if (kept && draft.value === placed && around.value === led) draft.value = null
  }
  return { draft, lookedFrom, at, begin, lookFrom, move, put, turn, lay, relayer, around, regroup, keep, leave: () => (draft.value = null) }
}
